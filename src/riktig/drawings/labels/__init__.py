"""Labels as they come out: fitted to their media, and laid on pages at true size."""
