"""Bending: from what is wanted of lines, corners and boxes to the mesh that does it."""
