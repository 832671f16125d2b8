"""The lens: its radial distortion, and how traces tell it (the plumb-line method)."""
