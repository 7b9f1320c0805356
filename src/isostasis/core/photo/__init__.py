"""A photograph of the board: laid straight, and outlines followed on it.

`lens` maps the board's plane into a picture and back, `straighten` fits a picture to the board, `warp` draws it laid
straight, `follow` finds an edge between clicks. Pictures are kept, sent and decoded elsewhere.
"""
