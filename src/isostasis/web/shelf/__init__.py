"""Shelf: what there is, what the scenes need of it, what to buy, the list for the shop, what things cost."""
