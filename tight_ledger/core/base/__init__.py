"""What everything stands on: errors, models, units, bands, how figures are read and shown, the shop's policy, people."""
