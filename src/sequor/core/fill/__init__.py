"""Filling the corners: what the picture does not cover is made from what surrounds it.

`plan_fill` works out at a fixed small size what goes where, so that a preview and the export show
the same thing; `fill` makes the pixels at whatever size the frame was rendered.
"""
