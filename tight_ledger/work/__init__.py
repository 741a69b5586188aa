"""What a person at the tablet can do: each use case joins the rules to the store. No HTTP here."""
