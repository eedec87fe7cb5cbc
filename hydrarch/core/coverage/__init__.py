"""Where the water of sprinklers lands."""
