"""Water, friction, minor losses, pumps, emitters and the network solver."""
