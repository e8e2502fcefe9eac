"""The survey and what belongs to it: walking, reading, bounds, lists handed over, what is given out."""
