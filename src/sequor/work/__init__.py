"""Where heavy work runs: a small interface (submit, progress, cancel, result), and what stands
behind it here, processes on this machine.

Nothing else knows where work runs, and nothing here knows what the work is about.
"""
