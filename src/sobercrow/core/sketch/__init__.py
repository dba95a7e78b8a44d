"""Rough sketches: single strokes, what they are, and the one line that several of them mean."""
