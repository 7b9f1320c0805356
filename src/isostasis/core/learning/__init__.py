"""From what was measured to what is said next time: `posterior` learns one factor from amounts and from bounds,
`records` says which records teach which factor.
"""
