"""The Flask application: HTTP in front of the store, the pictures and the core."""
