"""Archives: what they hold, unpacked and compared, whatever their format, trusting nothing in them."""
