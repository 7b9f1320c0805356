"""Swatches: trials on scrap side by side. `new` begins one, `judging` a round, `photo` reads colours, `making` lays a
lane on a scene and matches its colour, `drawing` is how lanes and their scores are drawn."""
