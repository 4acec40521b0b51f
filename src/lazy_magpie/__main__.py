"""Runs the program as `python -m lazy_magpie`."""

from lazy_magpie.cli.main import run

if __name__ == "__main__":
    run()
