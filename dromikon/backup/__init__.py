"""Backups: one file with both databases, evidence, snapshots and lists; made without stopping anything, verified when it is
made and when it is restored."""
