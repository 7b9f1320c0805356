"""What there is and what it must serve: packs and what is left in them, who may count on which, what to buy.

`ledger` says what is left of a pack, `sundries` what steps use up beside what is laid, `reserve` which pack serves
which step, `basket` which packs to buy at the least cost, `worth` what a useful unit costs, `doubts` what to look at.
No clock and no database: moments and packs come in as data.
"""
