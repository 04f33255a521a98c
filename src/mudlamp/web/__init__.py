"""The web application: routes parse, call one service, build one view, render."""
