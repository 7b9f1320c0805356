"""Devices: pairing one with a code, what each may do, turning it away; and the page at which a stranger knocks."""
