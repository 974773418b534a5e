"""Views of tramming: routes and serializers."""
