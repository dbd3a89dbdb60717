"""What cameras see: kept by the minute, watched by detectors of our own, and looked through again."""
