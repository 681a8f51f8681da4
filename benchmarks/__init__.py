"""Speed as ratios, each measured against a fixed reference in the same run: ``python -m benchmarks [NAME ...]``."""
