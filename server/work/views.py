"""Stopping work."""

from django.db import transaction
from django.shortcuts import get_object_or_404
from django.utils import timezone
from drf_spectacular.utils import extend_schema
from rest_framework import status
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from .models import Job


class CancelView(APIView):
    """Asks for a job to stop."""

    @extend_schema(request=None, responses={204: None})
    def post(self, request: Request, pk: int) -> Response:
        with transaction.atomic():
            job = get_object_or_404(Job.objects.select_for_update(), pk=pk)
            if job.state == Job.State.WAITING:
                job.state, job.finished = Job.State.CANCELLED, timezone.now()
                job.message = "Stopped before it began."
            job.cancel_asked = True
            job.save()
        return Response(status=status.HTTP_204_NO_CONTENT)
