"""From pings to tracks and reactions: detect, filter, associate, classify, judge. On pings, never on truth."""
