"""Sources: devices, points, sightlines and intakes."""
