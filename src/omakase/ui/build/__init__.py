"""Building: jobs, their ply books and cut lists, resin, calendar, cost, masses, weighings, and the shop."""

PARTS, BOOK, CUT, RESIN, CALENDAR, COST, WEIGHTS, BAG, SHOP = range(9)  # pages, in the order of their tabs
