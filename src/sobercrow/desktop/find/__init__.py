"""Find: commands, tools, settings and recipes by their names, and where they are."""
