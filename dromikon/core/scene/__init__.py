"""What is seen in pictures: objects followed from frame to frame, and detectors that watch them. Pure: the same code runs live
and over the past."""
