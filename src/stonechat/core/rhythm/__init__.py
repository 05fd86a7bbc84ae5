"""The rider and the timetable."""
