"""Reading and writing picture files: what a file is, its pixels, its profile and its metadata."""
