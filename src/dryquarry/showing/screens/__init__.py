"""Full screens in the terminal: the marking desk, and the choice between two replies."""
