"""Measures the program against honest yardsticks in the same run; not tests."""
