#include "app/map/plumb_lines.h"

#include "app/document/command_line.h"

namespace app {

PlumbLines::PlumbLines(Document& document, MapView& map)
    : QObject(&map),
      document_(document),
      map_(map),
      card_(new PlumbCard(&map)),
      probe_(document.engine().executor()) {
  connect(&map, &MapView::plumbRequested, this, [this](qint64 x, qint64 z, bool second) {
    hang({x, z}, second);
  });
  connect(&map, &MapView::viewChanged, this, &PlumbLines::place);
  connect(card_, &PlumbCard::resized, this, &PlumbLines::place);
  connect(card_, &PlumbCard::closeRequested, this, &PlumbLines::takeUp);
  connect(card_, &PlumbCard::pointerChosen, this, &PlumbLines::pointerChosen);
  connect(card_, &PlumbCard::copyRequested, this, &PlumbLines::copy);
}

void PlumbLines::hang(acre::Cell cell, bool second, std::optional<int64_t> y) {
  if (second && hanging()) {
    second_ = Asked{cell, y};
  } else {
    second_.reset();
    cells_.push_back({cell, y});
  }
  refresh();
  emit asked();
}

void PlumbLines::goBack() {
  if (cells_.size() < 2) return takeUp();
  cells_.pop_back();
  second_.reset();
  refresh();
}

void PlumbLines::takeUp() {
  probe_.forget();
  cells_.clear();
  second_.reset();
  card_->clear();
  map_.setPlumbs({}, {});
  map_.setFocus();
}

void PlumbLines::refresh() {
  probe_.forget();
  if (!hanging()) return map_.setPlumbs({}, {});
  map_.setPlumbs(cells_.back().cell, second_ ? std::optional(second_->cell) : std::nullopt);
  const auto ask = [world = document_.world(), first = cells_.back(), second = second_] {
    Answer out{world, acre::plumbAt(*world, first.cell, first.y), {}};
    if (second)
      if (auto found = acre::plumbAt(*world, second->cell, second->y)) out.second = *found;
    return out;
  };
  probe_.ask(ask, [this](const Answer& answer) { show(answer); });
}

void PlumbLines::show(const Answer& answer) {
  if (!answer.plumb) return emit refused(QString::fromStdString(answer.plumb.error().text()));
  card_->setPlumb(*answer.plumb);
  card_->setSecond(answer.second);
  card_->show();
  place();
}

void PlumbLines::place() {
  if (!card_->isVisible()) return;
  const int most = map_.pictureRect().height() - 20;
  card_->resize(PlumbCard::kCardWidth, std::min(card_->neededHeight(), most));
  card_->move(map_.cardPlace(card_->size()));
}

void PlumbLines::copy(const QString& form) {
  const acre::Plumb& plumb = *card_->plumb();
  const auto at = [](const char* option, const Asked& a, const char* level) {
    QString text =
        QStringLiteral("%1 %2,%3").arg(QLatin1String(option)).arg(a.cell.x).arg(a.cell.z);
    if (a.y) text += QStringLiteral(" %1 %2").arg(QLatin1String(level)).arg(*a.y);
    return text;
  };
  if (form == QStringLiteral("command")) {
    QString rest = at("--at", cells_.back(), "--y");
    if (second_) rest += QLatin1Char(' ') + at("--against", *second_, "--against-y");
    emit copied(commandFor(document_, QStringLiteral("plumb"), rest), tr("command"));
  } else {
    emit copied(QString::fromStdString(form == QStringLiteral("json") ? acre::plumbJson(plumb)
                                                                      : acre::plumbText(plumb)),
        tr("plumb line"));
  }
}

}  // namespace app

#include "moc_plumb_lines.cpp"
