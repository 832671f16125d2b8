"""What the picture itself says of the stance: lines that may be level, plumb or the horizon.

Segments are found on a small picture (`segments`), the stance that explains most of them is
searched for (`search`) and refined (`belonging`); lines are chosen among them (`lines`), fitted to
the original (`attempts`) and judged (`judging`). Eye level over open water is looked for besides
(`skyline`, `horizon`).
"""
