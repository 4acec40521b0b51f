"""Planning where things are filed: tidy, and the rules by which a naming gives them their place."""
