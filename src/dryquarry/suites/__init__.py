"""Suites and their questions: reading, checking, digests. Pure computation on file contents passed in."""
