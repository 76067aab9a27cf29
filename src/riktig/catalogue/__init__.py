"""Generic parts, read from TOML: what they measure, where their terminals are, what they are rated for."""
