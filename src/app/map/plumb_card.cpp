#include "app/map/plumb_card.h"

#include <QContextMenuEvent>
#include <QKeyEvent>
#include <QMenu>
#include <QMouseEvent>
#include <QPainter>
#include <QWheelEvent>
#include <algorithm>

#include "app/look/look.h"

namespace app {
namespace {

constexpr int kHead = 44;
constexpr int kRow = 20;
constexpr int kNote = 15;
constexpr int kFoot = 10;
constexpr int kKnot = 16;  ///< x of the vertical line.

QString q(const std::string& text) {
  QString out = QString::fromStdString(text);
  // Minus signs as people read them, where a figure begins.
  for (qsizetype i = 0; i + 1 < out.size(); ++i)
    if (out[i] == QLatin1Char('-') && out[i + 1].isDigit() &&
        (i == 0 || !out[i - 1].isLetterOrNumber()))
      out[i] = QChar(0x2212);
  return out;
}

}  // namespace

PlumbCard::PlumbCard(QWidget* parent) : QWidget(parent) {
  setObjectName(QStringLiteral("plumb"));
  setFocusPolicy(Qt::ClickFocus);
  setAccessibleName(tr("Plumb line"));
  hide();
}

void PlumbCard::setPlumb(const acre::Plumb& plumb) {
  before_ = plumb_ && plumb_->cell == plumb.cell ? plumb_ : std::nullopt;
  plumb_ = plumb;
  build();
}

void PlumbCard::setSecond(const std::optional<acre::Plumb>& plumb) {
  second_ = plumb;
  build();
}

void PlumbCard::clear() {
  plumb_.reset();
  second_.reset();
  before_.reset();
  hide();
}

QFont PlumbCard::fontOf(const Line& line) {
  QFont font = look::font(line.fold ? look::Type::Caption : look::Type::Body);
  if (line.deciding) font.setWeight(QFont::DemiBold);
  return font;
}

void PlumbCard::build() {
  lines_.clear();
  if (!plumb_) return;
  if (second_) {
    for (const acre::PlumbDifference& d : acre::plumbDifferences(*plumb_, *second_))
      lines_.push_back(
          {q(d.label), q(d.first), tr("there %1").arg(q(d.second)), {}, false, false, false, {}});
    if (lines_.empty())
      lines_.push_back({tr("no difference"), {}, {}, {}, false, false, false, {}});
  } else {
    std::vector<acre::PlumbRow> was;
    if (before_) was = acre::plumbRows(*before_);
    QString stage;
    for (const acre::PlumbRow& row : acre::plumbRows(*plumb_)) {
      const QString name = tr(row.stageTitle());
      const bool start = name != stage;
      if (row.folds && !open_) continue;
      Line line{
          q(row.label), q(row.value), q(row.note), row.pointer, row.deciding, start, false, name};
      if (line.value.contains(QChar(0x2265)) || line.value.contains(QLatin1Char('<'))) {
        // A comparison stands below its rule, where there is room for both.
        line.note = line.value + QStringLiteral(" · ") + line.note;
        line.value.clear();
      }
      for (const acre::PlumbRow& old : was)
        if (old.stage == row.stage && old.label == row.label && old.value != row.value)
          line.note = tr("was %1").arg(q(old.value)) +
                      (line.note.isEmpty() ? QString() : QStringLiteral(" · ") + line.note);
      lines_.push_back(line);
      stage = name;
    }
    lines_.push_back({open_ ? tr("Less") : tr("Every layer"), {}, {}, {}, false, false, true, {}});
  }
  setAccessibleDescription(QString::fromStdString(acre::plumbText(*plumb_)));
  const QFontMetrics caption(look::font(look::Type::Caption));
  constexpr int kRoom = kCardWidth - 38;
  const auto wrapped = [](const QFontMetrics& metrics, const QString& words) {
    return metrics.boundingRect(QRect(0, 0, kRoom, 1000), Qt::TextWordWrap, words).height();
  };
  for (Line& line : lines_) {
    const QFontMetrics body(fontOf(line));
    // What does not fit beside its label stands below it: no word is cut.
    if (!line.value.isEmpty() &&
        body.horizontalAdvance(line.label) + body.horizontalAdvance(line.value) + 8 > kRoom) {
      line.note =
          line.value + (line.note.isEmpty() ? QString() : QStringLiteral(" · ") + line.note);
      line.value.clear();
    }
    line.rowHeight = kRow;
    if (line.value.isEmpty() && body.horizontalAdvance(line.label) > kRoom)
      line.rowHeight = wrapped(body, line.label) + 4;
    if (!line.note.isEmpty()) line.noteHeight = std::max(kNote, wrapped(caption, line.note));
  }
  chosen_ = -1;
  scroll_ = 0;
  resize(kCardWidth, neededHeight());
  emit resized();
  update();
}

int PlumbCard::heightOf(const Line& line) const {
  return line.rowHeight + line.noteHeight;
}

int PlumbCard::linesHeight() const {
  int height = 0;
  for (const Line& line : lines_) height += heightOf(line);
  return height;
}

int PlumbCard::neededHeight() const {
  return kHead + linesHeight() + kFoot;
}

int PlumbCard::roomForLines() const {
  return height() - kHead - kFoot;
}

int PlumbCard::lineAt(QPoint p) const {
  if (p.y() < kHead || p.y() >= kHead + roomForLines()) return -1;
  int y = kHead - scroll_;
  for (size_t i = 0; i < lines_.size(); ++i) {
    const int h = heightOf(lines_[i]);
    if (p.y() >= y && p.y() < y + h) return static_cast<int>(i);
    y += h;
  }
  return -1;
}

void PlumbCard::scrollTo(int offset) {
  scroll_ = std::clamp(offset, 0, std::max(0, linesHeight() - roomForLines()));
  update();
}

void PlumbCard::choose(int line) {
  chosen_ = std::clamp(line, 0, static_cast<int>(lines_.size()) - 1);
  int top = 0;
  for (int i = 0; i < chosen_; ++i) top += heightOf(lines_[static_cast<size_t>(i)]);
  const int bottom = top + heightOf(lines_[static_cast<size_t>(chosen_)]);
  scrollTo(std::clamp(scroll_, bottom - roomForLines(), std::max(top, bottom - roomForLines())));
}

void PlumbCard::wheelEvent(QWheelEvent* e) {
  scrollTo(scroll_ - e->angleDelta().y() / 2);
  e->accept();  // The map below keeps its scale.
}

void PlumbCard::resizeEvent(QResizeEvent*) {
  scrollTo(scroll_);
}

void PlumbCard::mousePressEvent(QMouseEvent* e) {
  if (e->button() != Qt::LeftButton) return;
  if (e->position().y() < kHead && e->position().x() > width() - 26) return emit closeRequested();
  const int at = lineAt(e->position().toPoint());
  if (at < 0) return;
  const Line& line = lines_[static_cast<size_t>(at)];
  if (line.fold) {
    open_ = !open_;
    return build();
  }
  chosen_ = at;
  update();
  if (!line.pointer.empty()) emit pointerChosen(QString::fromStdString(line.pointer));
}

void PlumbCard::contextMenuEvent(QContextMenuEvent* e) {
  QMenu menu(this);
  menu.addAction(
      tr("Copy as text\tCtrl+C"), this, [this] { emit copyRequested(QStringLiteral("text")); });
  menu.addAction(tr("Copy as JSON"), this, [this] { emit copyRequested(QStringLiteral("json")); });
  menu.addAction(
      tr("Copy as command"), this, [this] { emit copyRequested(QStringLiteral("command")); });
  menu.addAction(tr("Take up the plumb line\tEsc"), this, &PlumbCard::closeRequested);
  menu.exec(e->globalPos());
}

bool PlumbCard::event(QEvent* e) {
  if (e->type() == QEvent::ShortcutOverride &&
      static_cast<QKeyEvent*>(e)->matches(QKeySequence::Copy)) {
    e->accept();
    return true;
  }
  return QWidget::event(e);
}

void PlumbCard::keyPressEvent(QKeyEvent* e) {
  if (e->matches(QKeySequence::Copy)) return emit copyRequested(QStringLiteral("text"));
  switch (e->key()) {
    case Qt::Key_Down:
      return choose(chosen_ + 1);
    case Qt::Key_Up:
      return choose(chosen_ - 1);
    case Qt::Key_Return:
    case Qt::Key_Enter:
      if (chosen_ >= 0 && lines_[static_cast<size_t>(chosen_)].fold) {
        open_ = !open_;
        return build();
      }
      if (chosen_ >= 0)
        emit pointerChosen(QString::fromStdString(lines_[static_cast<size_t>(chosen_)].pointer));
      return;
    case Qt::Key_Escape:
      return emit closeRequested();
    default:
      QWidget::keyPressEvent(e);
  }
}

void PlumbCard::paintHead(QPainter& p) const {
  const look::Tokens& t = look::tokens();
  p.setPen(t.ink);
  p.setFont(look::font(look::Type::Head));
  const QRect head(10, 5, width() - 40, 20);
  p.drawText(head, Qt::AlignVCenter,
      p.fontMetrics().elidedText(q(acre::plumbTitle(*plumb_)), Qt::ElideRight, head.width()));
  p.setFont(look::font(look::Type::Caption));
  p.setPen(t.soft);
  QString place = tr("x %1 z %2 · chunk %3, %4")
                      .arg(look::wholeNumber(plumb_->cell.x), look::wholeNumber(plumb_->cell.z),
                          look::wholeNumber(plumb_->chunk.cx), look::wholeNumber(plumb_->chunk.cz));
  if (second_)
    place = tr("against x %1 z %2")
                .arg(look::wholeNumber(second_->cell.x), look::wholeNumber(second_->cell.z));
  p.drawText(QRect(10, 24, width() - 20, 16), Qt::AlignVCenter, place);
  p.setPen(QPen(t.ink, 1.5));
  p.drawLine(width() - 20, 10, width() - 12, 18);
  p.drawLine(width() - 12, 10, width() - 20, 18);
}

void PlumbCard::paintLine(QPainter& p, const Line& line, int y, bool chosen) const {
  const look::Tokens& t = look::tokens();
  const QRect r(28, y, width() - 38, line.rowHeight);
  if (chosen) p.fillRect(QRect(24, y, width() - 26, heightOf(line)), t.chosen);
  if (line.stageStart) {
    p.setPen(QPen(t.ink, 1));
    p.setBrush(t.sheet);
    p.drawEllipse(QPointF(kKnot, y + kRow / 2.0), 3.5, 3.5);
  }
  p.setFont(fontOf(line));
  p.setPen(line.fold ? t.soft : t.ink);
  p.drawText(r, Qt::AlignVCenter | Qt::TextWordWrap, line.label);
  p.drawText(r, Qt::AlignVCenter | Qt::AlignRight, line.value);
  if (line.note.isEmpty()) return;
  p.setFont(look::font(look::Type::Caption));
  p.setPen(t.soft);
  p.drawText(QRect(28, y + line.rowHeight - 3, width() - 38, line.noteHeight),
      Qt::AlignVCenter | Qt::TextWordWrap, line.note);
}

void PlumbCard::paintEvent(QPaintEvent*) {
  if (!plumb_) return;
  QPainter p(this);
  const look::Tokens& t = look::tokens();
  p.fillRect(rect(), t.sheet);
  p.setPen(t.edge);
  p.drawRect(rect().adjusted(0, 0, -1, -1));
  p.fillRect(QRect(0, 0, width(), 2), t.ink);
  paintHead(p);
  // The line with its knots, the bob at its foot.
  p.setRenderHint(QPainter::Antialiasing);
  const int foot = height() - 14;
  p.setPen(QPen(t.ink, 1));
  p.drawLine(QPointF(kKnot, kHead), QPointF(kKnot, foot - 6));
  const QPolygonF bob(
      {QPointF(kKnot - 4, foot - 6), QPointF(kKnot + 4, foot - 6), QPointF(kKnot, foot + 5)});
  p.setBrush(plumb_->material == acre::kUnassignedId ? QBrush(look::hatch()) : QBrush(t.ink));
  p.drawPolygon(bob);
  const int room = roomForLines(), all = linesHeight();
  p.save();
  p.setClipRect(QRect(1, kHead, width() - 2, room));
  int y = kHead - scroll_;
  for (size_t i = 0; i < lines_.size(); ++i) {
    if (y + heightOf(lines_[i]) > kHead && y < kHead + room)
      paintLine(p, lines_[i], y, static_cast<int>(i) == chosen_);
    y += heightOf(lines_[i]);
  }
  p.restore();
  p.setRenderHint(QPainter::Antialiasing, false);
  if (all > room) {  // How much there is, and which part of it shows.
    const int bar = std::max(16, room * room / all);
    p.fillRect(QRect(width() - 5, kHead + (room - bar) * scroll_ / (all - room), 3, bar), t.edge);
  }
  if (hasFocus()) {
    p.setBrush(Qt::NoBrush);
    p.setPen(QPen(t.ink, 2));
    p.drawRect(rect().adjusted(1, 1, -1, -1));
  }
}

}  // namespace app

#include "moc_plumb_card.cpp"
