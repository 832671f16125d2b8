"""The warp: from the orientation and the lens to one map, and how far it may go."""
