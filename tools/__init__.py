"""What developers run: a browser and a served demo for pictures and measurements."""
