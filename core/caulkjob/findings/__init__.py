"""What the questions of the job find, each with its sentences: a module for each question."""
