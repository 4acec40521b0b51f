"""All that reads arguments or prints; no other room imports this one."""
