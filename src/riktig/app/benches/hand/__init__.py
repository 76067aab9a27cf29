"""What the benches share on which things are moved by hand."""
