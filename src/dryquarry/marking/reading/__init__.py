"""From a reply taken apart to the claim that stands: places, stances, and the rules that settle which one counts."""
