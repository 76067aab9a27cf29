"""Reading and writing: briefs, the job file, the Plan as JSON, and the documents that leave."""
