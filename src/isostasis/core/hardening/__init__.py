"""How things harden: setting (plaster), drying (water leaves), reacting (two parts), and when to touch them.

`climate` is the room over time; `drying`, `setting`, `cure` are the laws; `layer` solves heat in a poured
layer; `flow` tells how resin runs, levels and keeps a wave.
"""
