"""Colours as they will look: in linear light, wet and dry, blended dry or as paint, and how far apart they are.

Colours are arrays (..., 3) of linear sRGB, 0 to 1, unless a name says hex or Lab. CIELAB and CIEDE2000 are
scikit-image's.
"""
