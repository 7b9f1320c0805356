"""Pour: drag the water level; volume, parts, lifts, heat and hours follow at once. `views` the page, `course` how it
goes hour by hour and what if it were otherwise."""
