#include "app/window/navigator.h"

#include <QClipboard>
#include <QGuiApplication>

#include "app/document/command_line.h"

namespace app {

Navigator::Navigator(Document& document, MapView& map, Panes& panes, PlumbLines& plumbs)
    : QObject(&map), document_(document), map_(map), panes_(panes), plumbs_(plumbs) {}

void Navigator::goTo(acre::Cell cell) {
  map_.goTo(cell);
}

void Navigator::hang(acre::Cell cell, std::optional<int64_t> y) {
  plumbs_.hang(cell, false, y);
}

void Navigator::visit(acre::Cell cell, std::optional<int64_t> y) {
  goTo(cell);
  hang(cell, y);
}

void Navigator::copy(const QString& text, const QString& what) {
  QGuiApplication::clipboard()->setText(text);
  emit told(commandLacksChanges(document_)
                ? tr("Copied the %1; unsaved changes are not in the file yet").arg(what)
                : tr("Copied the %1").arg(what));
}

void Navigator::copyCommand(const QString& verb, const QString& rest) {
  copy(commandFor(document_, verb, rest), tr("command"));
}

void Navigator::leave() {
  if (cameFrom_) return;
  cameFrom_ = CameFrom{showing_->state(), panes_.large()};
}

void Navigator::goBack() {
  if (!cameFrom_) return;
  panes_.setLarge(cameFrom_->large);
  showing_->show(cameFrom_->view);
  cameFrom_.reset();
}

}  // namespace app

#include "moc_navigator.cpp"
