"""Files from strangers, looked at first in a process that can do nothing but look at them."""
