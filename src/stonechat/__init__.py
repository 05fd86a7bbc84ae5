"""Stonechat: planner, simulator, optimiser and logbook for self-supported ultra-distance bicycle racers."""
