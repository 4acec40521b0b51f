"""Random trees, random plans and a disk that forgets, for the tests and the long crash run."""
