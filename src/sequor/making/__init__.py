"""What is made of pixels: proxies, views, fills, exports, fitted edges. No database, no HTTP.

The functions at the top level that take a `Told` are tasks (see `sequor.work`): they get values
and return values, and run wherever the engine puts them. `pipeline` is the one way from a recipe
to a file, which the command line goes too.
"""
