"""Stopping work."""

from django.db import transaction
from django.shortcuts import get_object_or_404
from drf_spectacular.utils import extend_schema
from rest_framework import status
from rest_framework.request import Request
from rest_framework.response import Response
from rest_framework.views import APIView

from .models import Job
from .tasks import end


class CancelView(APIView):
    """Asks for a job to stop."""

    @extend_schema(request=None, responses={204: None})
    def post(self, request: Request, pk: int) -> Response:
        with transaction.atomic():
            job = get_object_or_404(Job.objects.select_for_update(), pk=pk)
            if job.state not in Job.OPEN:
                return Response(status=status.HTTP_204_NO_CONTENT)
            job.cancel_asked = True
            job.save(update_fields=["cancel_asked"])
            if job.state == Job.State.WAITING:
                end(job, Job.State.CANCELLED, "Stopped before it began.")
        return Response(status=status.HTTP_204_NO_CONTENT)
