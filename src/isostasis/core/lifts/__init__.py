"""Lifts: the layers of a lay-up. `kinds` has one module a kind; the rest is what kinds share.

`site` where a lift goes on and the shapes of its figures, `amounts` from what stands in place to what is mixed,
`wet_film` hours of what dries, `drinking` what a bed drinks, `cast` pieces from moulds, `fold` the ground through all.
"""
