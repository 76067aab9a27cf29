"""The benches: one dominant thing each."""
