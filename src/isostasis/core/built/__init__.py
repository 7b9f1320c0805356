"""What was done, against what is meant: what of it still lies there, what remains to be laid, what must come off.

`lying` finds where each built thing still lies on the ground as it is now, `matching` pairs it with the lifts that are
planned, `remains` works out what of each lift is still to be laid, `removals` what must come off, `forms` which forms
were made just as they are planned, `ratio` what to expect of a batch that went off its parts.
"""
