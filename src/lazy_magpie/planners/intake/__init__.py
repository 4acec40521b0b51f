"""Planning what becomes of downloads: the planner, and what each of its questions needs."""
