"""From a scene to a ping: transducer, beams, echoes, reverberation, noise."""
