"""What an author does with the rulebook: save, check, rehearse, try, exchange, and ask why."""
