"""Views of the first layer: routes and serializers."""
