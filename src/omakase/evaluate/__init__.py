"""Document -> core -> results: snapshots, cache, the line-up, and plain records for other programs."""
