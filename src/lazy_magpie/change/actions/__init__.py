"""Actions: how each type of step is done, recovered after a crash, and taken back; one file an action."""
