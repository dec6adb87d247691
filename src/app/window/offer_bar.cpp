#include "app/window/offer_bar.h"

#include <QEvent>
#include <QPushButton>
#include <algorithm>

#include "app/window/notice.h"

namespace app {

OfferBar::OfferBar(QWidget* over) : QFrame(over) {
  setObjectName(QStringLiteral("offer"));
  setProperty("role", "offer");
  setFocusPolicy(Qt::NoFocus);
  row_ = new QHBoxLayout(this);
  row_->setContentsMargins(12, 7, 12, 7);
  row_->setSpacing(8);
  row_->addWidget(new WarningMark);
  words_ = new QLabel;
  words_->setWordWrap(true);
  row_->addWidget(words_, 1);
  over->installEventFilter(this);
  hide();
}

void OfferBar::offer(const QString& sentence, const std::vector<Choice>& choices) {
  for (QWidget* button : buttons_) button->deleteLater();
  buttons_.clear();
  words_->setText(sentence);
  for (const Choice& choice : choices) {
    auto* button = new QPushButton(choice.words);
    button->setObjectName(QLatin1String(choice.name));
    connect(button, &QPushButton::clicked, this, [this, act = choice.act] {
      hide();
      if (act) act();
    });
    row_->addWidget(button);
    buttons_.push_back(button);
  }
  arrange();
  show();
  raise();
}

bool OfferBar::eventFilter(QObject* watched, QEvent* event) {
  if (event->type() == QEvent::Resize) arrange();
  return QFrame::eventFilter(watched, event);
}

void OfferBar::arrange() {
  constexpr int kMost = 640, kEdge = 12;
  const int width = std::min(kMost, parentWidget()->width() - 2 * kEdge);
  const int height = hasHeightForWidth() ? heightForWidth(width) : sizeHint().height();
  setGeometry((parentWidget()->width() - width) / 2, kEdge, width, height);
}

}  // namespace app
