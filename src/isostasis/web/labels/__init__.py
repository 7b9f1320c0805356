"""Labels: what the tins say, shipped and one's own, and what each field moves in a scene."""
