"""What went wrong: from a symptom, and a spot's own history, to causes, a test, a rescue, and what to change."""
