"""``python -m sequor``: what `bin/start` runs.

By this name, and with nothing imported before it is run: worker processes import the program's
main module again, but not one that is called ``__main__``.
"""

if __name__ == "__main__":
    from sequor.serve import main

    main()
