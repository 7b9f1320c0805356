"""What was done, against what is meant: what of it still lies there, what remains to be laid, what must come off.

`lying` finds where each built thing still lies on the ground as it is now, `matching` pairs it with the lifts that are
planned, `remains` works out what of each lift is still to be laid, `removals` what must come off, `ratio` what to
expect of a batch that went off its parts, `bend` makes a plan follow what lies there.
"""
