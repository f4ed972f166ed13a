"""What a design record is made of: checks worked out, and what a decision rests on."""
