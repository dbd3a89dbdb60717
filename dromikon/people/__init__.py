"""People: log-in, membership, roles, tokens and the audit trail."""
