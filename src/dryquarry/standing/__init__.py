"""Scores, intervals, paired tests and bands. Pure computation on results passed in."""
