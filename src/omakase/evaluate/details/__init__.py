"""Details of candidates: their loads, checks, sentences, drawings, and what may be changed about them."""
