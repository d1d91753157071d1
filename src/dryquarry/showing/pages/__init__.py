"""Templates of the pages that are written into folders."""
