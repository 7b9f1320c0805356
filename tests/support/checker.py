"""A schedule checked against the rules by another way than the solver's."""

from datetime import datetime, timedelta
from itertools import pairwise


def minutes(text, start):
    return round((datetime.fromisoformat(text) - start).total_seconds() / 60)


def check(steps, hours, start, made, at=None):
    """Hours, precedence, waits, windows, one pair of hands, vapour away from flames: all that must hold, found out by
    looking. `at`: the steps as they are for whoever begins at a moment."""
    times = {
        one.id: (minutes(one.start, start), minutes(one.end, start), minutes(one.ready, start)) for one in made.steps
    }
    mending = {one.id for one in steps if one.only_if}
    assert set(times) - mending == {one.id for one in steps} - mending
    gates = {one.id for one in steps if one.gate}
    busy = sorted(when for name, when in times.items() if name not in gates)
    assert all(begin >= end for (_, end, _), (begin, _, _) in pairwise(busy))
    open_at = hours.sessions(start, 400)

    def when(name):
        """The step as it is in the session in which it runs."""
        first = max(begin for begin, _ in open_at if begin <= times[name][0])
        return {one.id: one for one in at(start + timedelta(minutes=first))} if at else {one.id: one for one in steps}

    for name, (begin, end, ready) in times.items():
        one = when(name)[name]
        assert end - begin >= one.hands_on_min and ready - end >= one.wait_h * 60 - 1e-6
        assert one.gate or any(first <= begin and end <= last for first, last in open_at), name
        assert all(begin >= times[before][2] for before in one.after)
        for number, planned in enumerate(one.windows):
            window = when(planned.of)[one.id].windows[number]
            late = begin - times[window.of][1]
            assert late >= window.from_h * 60 - 1e-6
            in_time = window.to_h is None or late <= window.to_h * 60 + 1e-6
            assert in_time or times[window.mends][1] == begin, name
            assert not window.mends or (window.mends in times) != in_time, name
    for one in steps:
        for other in steps:
            apart = one.hazards & {"alcohol", "solvent"} and other.hazards & {"flame", "hot-wire", "hot-glue"}
            if apart and one.id in times and other.id in times and one is not other:
                (begin, end, _), (hot, off, _) = times[one.id], times[other.id]
                assert off <= begin or hot >= end + 30, (one.id, other.id)
    assert minutes(made.finish, start) == max(ready for _, _, ready in times.values())
    return times
