"""Views of visits: routes and serializers."""
