"""All that reads arguments or prints; no other package imports this one."""
