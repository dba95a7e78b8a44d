"""What a picture went through before it was brought in."""
