"""Planners, one a file: each looks at the catalogue and proposes a `Plan`; none touches a person's files."""
