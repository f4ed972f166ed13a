"""Help: what every check, quantity, property, test and finding means, and the terms of the field."""
