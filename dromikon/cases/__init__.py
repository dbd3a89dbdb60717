"""Cases: clips, stills, events, alarms and notes under one heading, kept until they are closed, and handed over as one archive."""
