"""Plans what puts a collection right by its reference lists."""
