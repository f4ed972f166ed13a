"""What it takes to build a member and what it then weighs: pieces, rolls, resin, time, money and mass."""
