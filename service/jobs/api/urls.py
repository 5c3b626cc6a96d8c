from django.urls import path

from service.jobs.api import beds, board, deadline, jobs, machines, state, versions

urlpatterns = [
    path("plans/<int:pk>/deadline", deadline.PlanDeadline.as_view()),
    path("state", state.StateView.as_view()),
    path("board", board.Board.as_view()),
    path("jobs", jobs.JobList.as_view()),
    path("jobs/<int:pk>", jobs.JobDetail.as_view()),
    path("jobs/<int:pk>/file", jobs.JobFile.as_view()),
    path("jobs/<int:pk>/flow", jobs.JobFlow.as_view()),
    path("jobs/<int:pk>/order", jobs.JobOrder.as_view()),
    path("jobs/<int:pk>/outcome", jobs.JobOutcome.as_view()),
    path("jobs/<int:pk>/photo", jobs.JobPhoto.as_view()),
    path("jobs/<int:pk>/place", jobs.JobPlace.as_view()),
    path("jobs/<int:pk>/reprint", jobs.JobReprint.as_view()),
    path("jobs/<int:pk>/slip", jobs.JobSlip.as_view()),
    path("jobs/<int:pk>/spool", jobs.JobSpool.as_view()),
    path("machines/<int:pk>/clear", machines.MachineClear.as_view()),
    path("machines/<int:pk>/hung-up", machines.MachineHungUp.as_view()),
    path("machines/<int:pk>/regroup", machines.MachineRegroup.as_view()),
    path("machines/<int:pk>/learnt", machines.MachineLearnt.as_view()),
    path("bed-versions/<int:pk>/name", beds.BedName.as_view()),
    path("bed-versions/<int:pk>/review", beds.BedReview.as_view()),
    path("bed-versions/<int:pk>/commit", beds.BedCommit.as_view()),
    path("jobs/<int:pk>/copies", beds.JobCopies.as_view()),
    path("versions/<int:pk>/name", versions.VersionName.as_view()),
    path("versions/<int:pk>/review", versions.VersionReview.as_view()),
]
