"""Ground: shape it and see it. `views` the forms on plan and cut, `fields` what can be typed about each kind of form,
`reports` how what is read off the ground is asked for; then a module a page beside the forms."""
