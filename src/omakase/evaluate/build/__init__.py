"""A job from its records to what goes on the bench: pieces, rolls, resin, calendar, cost, masses, ledger."""
