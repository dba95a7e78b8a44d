"""Thin strokes in tones: ink thinned to paths, single strokes as ridges, and the working lines among them."""
