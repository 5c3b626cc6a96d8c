from django.urls import path

from service.beds.api import beds

urlpatterns = [
    path("beds", beds.BedList.as_view()),
    path("beds/<int:pk>", beds.BedDetail.as_view()),
    path("beds/<int:pk>/progress", beds.BedProgress.as_view()),
    path("beds/<int:pk>/undo", beds.BedUndo.as_view()),
    path("beds/<int:pk>/redo", beds.BedRedo.as_view()),
    path("beds/<int:pk>/cancel", beds.BedCancel.as_view()),
    path("beds/<int:pk>/copy", beds.BedCopy.as_view()),
    path("bed-versions/<int:pk>/moves", beds.BedVersionMoves.as_view()),
]
