"""Find: one box for everything that is kept, and for help; `help` is what the pages themselves can be found by."""
