"""Rules on the text of a reply: each is read from a mapping, says itself in words, and tells what is amiss."""
