"""What commands do: lock, scan, make plans, apply and settle; only here do planners and `change` meet."""
