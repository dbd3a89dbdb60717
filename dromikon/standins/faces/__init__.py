"""Faces of the garden's people: how each is drawn, and a small recogniser that finds and compares drawn faces."""
