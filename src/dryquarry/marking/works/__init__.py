"""The work that a reply holds (a program, a query, a page): taking it out, and what comes of it when it is run."""
