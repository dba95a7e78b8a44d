"""Several pictures at once: a table of small pictures, each traced, opened, handed over."""
