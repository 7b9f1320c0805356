"""Records: what was predicted and what came, what that teaches, and what it moves. `charts` draws it."""
