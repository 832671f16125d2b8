"""Solution -> pixels: the resampling kernel, the rendering, and the size of the output."""
