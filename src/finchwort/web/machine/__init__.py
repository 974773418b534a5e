"""Views of machines at the line: routes and serializers."""
