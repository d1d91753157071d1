"""Pictures of what the standings say: each a function from a result to a file, in one look."""
