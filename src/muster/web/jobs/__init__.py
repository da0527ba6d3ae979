"""The board of jobs, help and the local account."""
