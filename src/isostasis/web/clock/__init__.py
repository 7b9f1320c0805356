"""Clock: when to do what. `asking` puts questions to the solver, `strata` draws lay-ups through time, `views` the page,
`marks` what is marked at the bench, `room` readings and forecasts, `gates` outside jobs and places, `out` calendars."""
