"""Night: warm enough asleep, with a margin for every rest."""
