"""What files say of themselves, one family of formats a file; each has `read(path) -> facts`."""
