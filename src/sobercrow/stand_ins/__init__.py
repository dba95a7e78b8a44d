"""Simulated devices, to try the work without the real ones."""
