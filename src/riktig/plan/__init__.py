"""What follows from a Job: pure functions, one module per question. Nothing here is ever saved, but as issued."""
