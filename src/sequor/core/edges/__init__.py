"""Where the edges under lines lie in the picture, to a fraction of a pixel."""
