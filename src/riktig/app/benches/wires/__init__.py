"""The Wires bench: the list of wires, and what joins each number."""
