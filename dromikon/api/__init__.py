"""The API under /api/v1."""
