"""Views of who may come in: routes and serializers."""
