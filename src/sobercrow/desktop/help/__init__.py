"""Help: the guide in a window beside, opened at what one asks about."""
