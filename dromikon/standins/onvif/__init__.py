"""Stand-in ONVIF devices. Each service is one file: its operations, answering as the official service descriptions have it."""
