"""What every page shares: opening a scene, saving an edit, the wet line, measures, the working of a figure."""
