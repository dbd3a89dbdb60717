"""What keeps an installation for years: backups, forgetting what is past keeping, anchors of the audit trail. Jobs of a process
of their own, the keeper, which stops nothing and writes in small groups."""
