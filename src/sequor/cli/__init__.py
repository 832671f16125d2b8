"""The same job without a browser or a database: ``sequor level INPUT OUTPUT``.

Thin: options become edits of a recipe, and the services make the file.
"""
