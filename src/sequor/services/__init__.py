"""What a caller asks for, between the core and the outside: no HTTP, no command line.

`intake` takes pictures in, `editing` changes their recipes, `previews` and `finishing` show them,
`exports` makes files of them; `pipeline` is the one way from a recipe to a file, which needs no
database and serves the command line too.
"""
