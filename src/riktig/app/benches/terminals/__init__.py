"""The Terminals bench: the strips as they stand on the rail."""
