"""From a symptom to its likely causes: `model` what a symptom, a cause and a test are (rules in `symptoms.toml`),
`facts` what a scene's own history says, `finder` the causes ranked by it, and what to ask where nothing is known.
"""
