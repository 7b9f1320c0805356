"""Mix: the card of one batch. Parts in the user's measures, what really went in, the working-time clock."""
