"""Values derived from a site: declared needs, keys that follow from them, a store that can be thrown away."""
