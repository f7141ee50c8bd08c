"""Materials, read only."""

from rest_framework import generics, serializers

from .models import Material


class MaterialSerializer(serializers.ModelSerializer[Material]):
    class Meta:
        model = Material
        fields = ("id", "key", "name", "process")


class MaterialsView(generics.ListAPIView[Material]):
    """All materials by name."""

    queryset = Material.objects.all()
    serializer_class = MaterialSerializer
