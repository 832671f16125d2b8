"""Everything that is said in words, made from numbers and enums; nothing else is done here."""
