"""What follows from an edit, and in which order it is wanted: what the window asks its worker process for. Knows no Qt."""
