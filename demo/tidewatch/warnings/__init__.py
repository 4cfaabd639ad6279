"""The warning service of Tidewatch."""
