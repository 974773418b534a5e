"""Views of printers: routes and serializers."""
