"""Benchmarks: `make bench` measures accuracy, speed and memory, and prints tables. Not part of the tests."""
