"""Working on takes: `channel` finds a channel's chain, `plotting` draws windows, `selection` looks
into a stretch, `editing` trims, splits and joins. What was recorded is never changed."""
