"""From grounds to SVG: plan and cut on one x axis, and the core sample. Geometry comes from the core."""
