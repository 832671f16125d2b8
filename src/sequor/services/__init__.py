"""What a caller asks for, between the core and the outside: no HTTP, no command line.

`intake` takes pictures in, `editing` changes their recipes, `images` shows them, `exports` makes
files of them; `working` has heavy work done, whose tasks are in `sequor.making`.
"""
