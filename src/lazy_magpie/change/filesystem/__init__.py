"""The one door to the disk: every call that a change makes, so that tests can put another disk in its place."""
