"""Measurements, never assertions. `./run bench` runs all; `./run bench --write` also renews docs/performance.md."""
