"""Planning what goes to a target: what of each thing is sent and as what, and what that changes there."""
