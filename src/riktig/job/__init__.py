"""What people decided: the Job, its ledger of kept choices, and the edits that lead from one to the next."""
