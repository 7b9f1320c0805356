"""The rules of the craft: pure functions over plain data.

Nothing in here knows of the web, the database or the clock. Data runs one way:
document -> ground -> lifts -> plan.
"""
