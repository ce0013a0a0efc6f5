"""Answers sent on to where people are: kept in an outbox until they have arrived, at least once each."""
