"""Simulated devices behind the interface that real ones would have. Pages mark them as stand-ins.

`spirit_level` reads how a board leans, `air` has a room probe and a weather service, `scale` a kitchen scale, and one
that is real and speaks lines over TCP.
"""
