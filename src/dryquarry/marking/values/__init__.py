"""What can be said in a reply: numbers, formulas, quantities, times, texts, option letters, lists, JSON."""
