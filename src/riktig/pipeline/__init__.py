"""How a table of stages is run: each stage only where one of its inputs changed. Must not know what any stage computes."""
