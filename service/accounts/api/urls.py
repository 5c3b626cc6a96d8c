from django.urls import path

from service.accounts.api import people, session

urlpatterns = [
    path("session", session.SessionView.as_view()),
    path("session/password", session.PasswordView.as_view()),
    path("session/places", session.PlaceList.as_view()),
    path("session/places/<int:pk>", session.PlaceDetail.as_view()),
    path("people", people.PersonList.as_view()),
    path("people/<int:pk>", people.PersonDetail.as_view()),
    path("people/invitations", people.InvitationList.as_view()),
    path("people/invitations/<int:pk>", people.InvitationDetail.as_view()),
    path("invitations/<str:secret>", people.Invited.as_view()),
    path("record", people.RecordList.as_view()),
    path("record/file", people.RecordFile.as_view()),
]
