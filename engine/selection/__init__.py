"""Which cards do a job: requirements, candidates, their evaluation and the choice."""
