"""Reckoner: one quick sum, without a scene."""
