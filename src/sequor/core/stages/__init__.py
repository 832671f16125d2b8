"""The stages of a solution: each a frozen value, made from those before it (`core.solve`)."""
