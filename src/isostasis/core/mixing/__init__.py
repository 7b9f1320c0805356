"""Amounts: parts by volume and by mass, what is left in the cup, batches, and mending a wrong pour into the cup."""
