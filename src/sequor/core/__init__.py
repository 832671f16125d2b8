"""The heart: photo + recipe -> solution -> pixels.

Value objects and pure functions only. Nothing here knows about a browser, a
database, a file or the environment.
"""
