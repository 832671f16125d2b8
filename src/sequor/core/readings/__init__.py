"""A single reading: what it says, and how one is given, by ends, corners or typed angles."""
