"""Planners, one a file: each looks at the catalogue and at listings, and returns a `Plan`; none changes anything."""
