"""The sheets beside the circuit."""
