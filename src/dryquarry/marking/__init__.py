"""Reading the answer out of a reply, and the schemes by which it is marked. Pure computation."""
