"""The demo's own words."""

DEMO_ANGLER = "J. Orchard (demo)"
