"""Sequor: levels tilted horizons and leaning lines in photographs."""

__version__ = "0.1.0"
