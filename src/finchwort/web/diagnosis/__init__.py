"""Views of diagnosis: routes and serializers."""
