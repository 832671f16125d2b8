"""The frame: the outline of the valid picture, the rectangles inside it, and what they cost."""
