"""What happened: events that are only ever added, and what they say about build and test."""
