"""The boat's own instruments: listened to over NMEA 0183, and a simulated talker that stands in for them."""
