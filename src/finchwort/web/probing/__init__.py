"""Views of probing: routes and serializers."""
