"""All addresses."""

from bench import clearances, comparing, deriving, notes, piece_names, siblings
from bench import views as bench
from dispatch import views as dispatch
from django.http import HttpRequest, HttpResponse, HttpResponseNotFound
from django.urls import path, re_path
from django.views.decorators.csrf import ensure_csrf_cookie
from items import views as items
from materials import views as materials
from orders import views as orders
from people import accounts
from people import views as people
from trail import views as trail
from work import views as work

from config.settings import WEB_BUILD

_INDEX = WEB_BUILD / "index.html"


@ensure_csrf_cookie
def front(request: HttpRequest) -> HttpResponse:
    """The web application; it finds its own way from the address."""
    if not _INDEX.is_file():
        return HttpResponseNotFound("The front end has not been built; run ./ironcaulk up.")
    page = _INDEX.read_text().replace("CSP_NONCE", str(request.csp_nonce))  # type: ignore[attr-defined]
    return HttpResponse(page, headers={"Cache-Control": "no-store"})


urlpatterns = [
    path("api/session", people.SessionView.as_view()),
    path("api/session/password", accounts.PasswordView.as_view()),
    path("api/accounts", accounts.AccountsView.as_view()),
    path("api/accounts/<int:pk>", accounts.AccountView.as_view()),
    path("api/questions", bench.QuestionsView.as_view()),
    path("api/operations", bench.OperationsView.as_view()),
    path("api/materials", materials.MaterialsView.as_view()),
    path("api/materials/file", materials.TakeAwayView.as_view()),
    path("api/materials/bring", materials.BringView.as_view()),
    path("api/materials/<slug:key>", materials.MaterialView.as_view()),
    path("api/materials/<slug:key>/editions", materials.EditionsView.as_view()),
    path("api/demands", materials.DemandsView.as_view()),
    path("api/shop", materials.ShopView.as_view()),
    path("api/machines", materials.MachinesView.as_view({"get": "list", "post": "create"})),
    path(
        "api/machines/<int:pk>",
        materials.MachinesView.as_view({"put": "update", "delete": "destroy"}),
    ),
    path("api/customers", orders.CustomersView.as_view()),
    path("api/orders", orders.OrdersView.as_view()),
    path("api/orders/<int:pk>", orders.OrderView.as_view()),
    path("api/orders/<int:pk>/remove", items.RemoveOrderView.as_view()),
    path("api/customers/<int:pk>/remove", items.RemoveCustomerView.as_view()),
    path("api/orders/<int:pk>/items", items.UploadView.as_view()),
    path("api/items", items.ItemsView.as_view()),
    path("api/items/counts", items.CountsView.as_view()),
    path("api/items/together", items.TogetherView.as_view()),
    path("api/items/<int:pk>", items.ItemView.as_view()),
    path("api/items/<int:pk>/comments", orders.CommentsView.as_view()),
    path("api/items/<int:pk>/assignee", orders.AssignView.as_view()),
    path("api/items/<int:pk>/received", items.ReceivedView.as_view()),
    path("api/items/<int:pk>/operate", bench.OperateView.as_view()),
    path("api/items/<int:pk>/mend", bench.MendView.as_view()),
    path("api/items/<int:pk>/judge", bench.JudgeView.as_view()),
    path("api/items/<int:pk>/current", bench.ReturnView.as_view()),
    path("api/items/<int:pk>/material", bench.MaterialChangeView.as_view()),
    path("api/items/<int:pk>/decisions", bench.DecisionsView.as_view()),
    path("api/items/<int:pk>/set-aside", bench.SetAsideView.as_view()),
    path("api/items/<int:pk>/replace", items.ReplaceView.as_view()),
    path("api/items/<int:pk>/read", items.ReadAgainView.as_view()),
    path("api/items/<int:pk>/apart", bench.ApartView.as_view()),
    path("api/items/<int:pk>/siblings", siblings.SiblingsView.as_view()),
    path("api/items/<int:pk>/pieces", deriving.DeriveView.as_view()),
    path("api/items/<int:pk>/pieces/<int:number>", piece_names.PieceNameView.as_view()),
    path("api/items/<int:pk>/release", dispatch.ReleaseView.as_view()),
    path("api/items/<int:pk>/letters", dispatch.LettersView.as_view()),
    path("api/decisions/<int:pk>/withdraw", bench.WithdrawView.as_view()),
    path("api/items/<int:pk>/trail", trail.ItemTrailView.as_view()),
    path("api/items/<int:pk>/trail/file", trail.ItemTrailFileView.as_view()),
    path("api/trail", trail.TrailView.as_view()),
    path("api/trail/file", trail.TrailFileView.as_view()),
    path("api/revisions/<int:pk>", bench.RevisionView.as_view()),
    path("api/revisions/<int:pk>/note", notes.NoteView.as_view()),
    path("api/revisions/<int:pk>/comparisons", comparing.ComparisonsView.as_view()),
    path("api/revisions/<int:pk>/comparisons/<int:against>", comparing.ComparisonView.as_view()),
    path(
        "api/revisions/<int:pk>/comparisons/<int:against>/changes",
        comparing.ComparedView.as_view(),
    ),
    path("api/revisions/<int:pk>/clearances", clearances.ClearancesView.as_view()),
    path(
        "api/revisions/<int:pk>/clearances/<int:first>/<int:second>",
        clearances.ClearanceView.as_view(),
    ),
    path("api/revisions/<int:pk>/measures", notes.MeasuresView.as_view()),
    path("api/measures/<int:pk>", notes.MeasureView.as_view()),
    path("api/revisions/<int:pk>/stand", bench.StandView.as_view()),
    path("api/revisions/<int:pk>/cost", bench.CostView.as_view()),
    path("api/revisions/<int:pk>/skin", bench.SkinView.as_view()),
    path("api/revisions/<int:pk>/changes", bench.ChangesView.as_view()),
    path("api/examinations/<int:pk>/marks", bench.MarksView.as_view()),
    path("api/examinations/<int:pk>/soundings", bench.SoundingsView.as_view()),
    path("api/jobs", bench.JobsView.as_view()),
    path("api/jobs/<int:pk>/cancel", work.CancelView.as_view()),
    path("api/releases/<int:pk>/file", dispatch.FileView.as_view()),
    path("api/releases/<int:pk>/letter", dispatch.LetterView.as_view()),
    path("api/releases/<int:pk>/withdraw", dispatch.TakeBackView.as_view()),
    path("api/letters/<int:pk>", dispatch.LetterPageView.as_view()),
    re_path(r"^(?!api/|assets/).*$", front),
]
