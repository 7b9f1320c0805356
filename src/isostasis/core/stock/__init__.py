"""What there is and what it must serve: packs and what is left in them, who may count on which, what to buy.

`ledger` says what is left of a pack, `asking` what steps take off the shelf (`sundries`: beside what is laid),
`reserve` which pack serves which step, `buying` what is short and what to buy, `basket` which packs at the least cost,
`worth` what a useful unit costs, `doubts` what to look at, `reading` amounts as people write them. No clock and no
database: moments and packs come in as data.
"""
