"""Archive: recordings, bookmarks and clips."""
