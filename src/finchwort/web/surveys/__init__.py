"""Views of surveys: routes and serializers."""
