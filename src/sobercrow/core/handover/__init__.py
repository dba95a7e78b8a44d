"""Artwork made ready for another machine: its size and page, its inks one by one, checks, sets of files."""
