"""What a person does by hand, as plans: names, places, the attic, new folders, taking away."""
