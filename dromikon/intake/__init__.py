"""Intake: the process that receives. Listeners and device sessions store raw messages in the inbox."""
