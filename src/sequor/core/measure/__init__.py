"""Measuring: what single readings say, where edges lie, and how the camera stood.

`readings` and `edges` look at one reading, `orientation` solves for roll, lean and swing from all
of them, `diagnosis` finds which disagree and why.
"""
