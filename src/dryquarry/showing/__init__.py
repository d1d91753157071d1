"""From results to something a person, or a program, looks at: tables, text, JSON, CSV, pictures."""
