"""What is read off the ground: answers that a caster cannot see from the forms alone.

`reading` heights, areas, weight; `carve` whether to carve steps or fill them; `incline` an odd height from stock
risers; `foam` sheets nested on panels; `joints` sections that come apart; `keep` what must stay flat or clean;
`report` all of it, each figure with its working.
"""
