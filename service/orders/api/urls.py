from django.urls import path

from service.orders.api import archive, orders, schedule

urlpatterns = [
    path("workshop/archive", archive.WorkshopArchive.as_view()),
    path("orders", orders.OrderList.as_view()),
    path("orders/import", orders.OrderImport.as_view()),
    path("orders/<int:pk>", orders.OrderDetail.as_view()),
    path("orders/<int:pk>/close", orders.OrderClose.as_view()),
    path("orders/<int:pk>/quote", orders.OrderPrice.as_view()),
    path("orders/<int:pk>/promise", orders.OrderPromise.as_view()),
    path("schedule", schedule.Schedule.as_view()),
    path("schedule/release", schedule.ScheduleRelease.as_view()),
    path("schedule/what-if", schedule.ScheduleWhatIf.as_view()),
]
