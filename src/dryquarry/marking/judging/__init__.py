"""What judges are asked, what they answer, and the mark that a panel's points come to; asking is done elsewhere."""
