"""What a reply is made of: its text as people see it, blocks and sentences; every place leads back to the original."""
