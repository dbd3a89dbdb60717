"""Hours: named weekly hours."""
