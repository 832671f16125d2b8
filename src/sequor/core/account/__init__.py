"""The account: what every reading leaves over, which disagree and why, and what to draw next."""
