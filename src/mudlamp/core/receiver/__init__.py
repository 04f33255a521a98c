"""What the sounder does to a ping before a person sees it: near cut, gain, quieting, ghost cut, punch, ink; and what that costs."""
