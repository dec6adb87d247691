#include "app/window/checks_drawer.h"

#include <QFrame>
#include <QHBoxLayout>
#include <QLabel>
#include <QToolButton>

#include "app/look/look.h"
#include "audit/check_kinds.h"

namespace app {
namespace {

QString words(const std::string& text) {
  return QString::fromStdString(text);
}

/// Two runs found the same: the drawer is left as it is, with what is open in it.
bool same(const std::vector<acre::Check>& a, const std::vector<acre::Check>& b) {
  return std::equal(
      a.begin(), a.end(), b.begin(), b.end(), [](const acre::Check& x, const acre::Check& y) {
        return x.id == y.id && x.sentence == y.sentence && x.pointer == y.pointer &&
               x.subject == y.subject && x.mend == y.mend && x.place == y.place;
      });
}

QLabel* wrapped(const QString& text) {
  auto* label = new QLabel(text);
  label->setWordWrap(true);
  label->setTextInteractionFlags(Qt::TextSelectableByMouse);
  return label;
}

}  // namespace

ChecksDrawer::ChecksDrawer(Document& document, const Statistics& statistics, QWidget* parent)
    : QWidget(parent), document_(document), statistics_(statistics) {
  page_ = new QScrollArea;
  page_->setWidgetResizable(true);
  page_->setHorizontalScrollBarPolicy(Qt::ScrollBarAlwaysOff);
  page_->setFrameShape(QFrame::NoFrame);
  page_->viewport()->setAutoFillBackground(false);
  auto* all = new QVBoxLayout(this);
  all->setContentsMargins(0, 0, 0, 0);
  all->addWidget(page_);
  connect(&statistics_, &Statistics::changed, this, [this] {
    if (isVisible()) refresh();
  });
}

void ChecksDrawer::showEvent(QShowEvent*) {
  refresh();
}

void ChecksDrawer::refresh() {
  if (built_ && same(shown_, statistics_.checks())) return;
  built_ = true;
  shown_ = statistics_.checks();
  rebuild();
}

void ChecksDrawer::rebuild() {
  auto* body = new QWidget;
  column_ = new QVBoxLayout(body);
  column_->setContentsMargins(12, 8, 12, 12);
  column_->setSpacing(6);
  heads_.fill(nullptr);
  if (shown_.empty())
    column_->addWidget(
        wrapped(tr("The checks look for known mistakes: layers that do nothing, "
                   "bands that no cell reaches, ground that no rule covers, holes. "
                   "They found none in this world.")));
  for (const acre::StageDef& stage : acre::allStages())
    for (const acre::Check& check : shown_) {
      if (check.stage != stage.id) continue;
      QWidget*& head = heads_[static_cast<size_t>(stage.id)];
      if (!head) {
        auto* title = new QLabel(tr(stage.title));
        title->setFont(look::capitals());
        if (column_->count() > 0) column_->addSpacing(8);
        column_->addWidget(head = title);
      }
      addFinding(check);
    }
  column_->addStretch(1);
  page_->setWidget(body);              // The old one goes.
  body->setAutoFillBackground(false);  // setWidget() switches it on.
}

void ChecksDrawer::addFinding(const acre::Check& check) {
  const QString name =
      QStringLiteral("check.") + words(check.id) +
      (check.subject.empty() ? QString() : QLatin1Char('.') + words(check.subject));
  column_->addWidget(wrapped(words(check.sentence)));
  auto* row = new QHBoxLayout;
  row->setSpacing(5);
  const auto button = [&](const QString& text, const char* key, const QString& tip) {
    auto* made = new QToolButton;
    made->setText(text);
    made->setProperty("role", "word");
    made->setObjectName(name + QLatin1Char('.') + QLatin1String(key));
    made->setToolTip(tip);
    row->addWidget(made);
    return made;
  };
  if (check.place) {
    const acre::Cell at = *check.place;
    connect(button(tr("Go there"), "go", tr("Moves the map to %1, %2").arg(at.x).arg(at.z)),
        &QToolButton::clicked, this, [this, at] { emit goToRequested(at.x, at.z); });
  }
  if (!check.pointer.empty())
    connect(button(tr("Show the control"), "control", words(check.pointer)), &QToolButton::clicked,
        this, [this, at = words(check.pointer)] { emit controlRequested(at); });
  if (check.apply)
    connect(button(tr("Mend"), "mend", tr("%1; can be undone").arg(words(check.mend))),
        &QToolButton::clicked, this, [this, check] { mend(check); });
  auto* about = button(tr("What is this?"), "about", tr("What the check is about"));
  about->setCheckable(true);
  row->addStretch(1);
  column_->addLayout(row);
  const std::string_view what = acre::whatIs(check.id);
  auto* told = wrapped(QString::fromUtf8(what.data(), static_cast<qsizetype>(what.size())));
  told->setFont(look::font(look::Type::Caption));
  told->setProperty("role", "caption");
  told->setObjectName(name + QStringLiteral(".told"));
  told->hide();
  column_->addWidget(told);
  connect(about, &QToolButton::toggled, told, &QWidget::setVisible);
  if (!check.mend.empty()) {
    auto* mends = wrapped(tr("Mend: %1.").arg(words(check.mend)));
    mends->setFont(look::font(look::Type::Caption));
    mends->setProperty("role", "caption");
    column_->addWidget(mends);
  }
}

void ChecksDrawer::mend(const acre::Check& check) {
  if (!statistics_.current())
    return emit refused(tr("The checks look at the last change still: mend in a moment."));
  acre::Recipe next = document_.recipe();
  check.apply(next);
  document_.change(tr("Mend: %1").arg(words(check.mend)), next);
}

void ChecksDrawer::showStage(acre::StageId stage) {
  refresh();
  if (QWidget* head = heads_[static_cast<size_t>(stage)]) {
    page_->widget()->layout()->activate();
    page_->widget()->resize(page_->widget()->sizeHint());
    page_->ensureWidgetVisible(head, 0, page_->viewport()->height() / 2);
  }
}

}  // namespace app

#include "moc_checks_drawer.cpp"
