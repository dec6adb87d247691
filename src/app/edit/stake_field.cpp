#include "app/edit/stake_field.h"

#include <QKeyEvent>

#include "app/edit/arithmetic.h"

namespace app {

StakeField::StakeField(Histogram& histogram, QWidget* parent)
    : QLineEdit(parent), histogram_(histogram) {
  setPlaceholderText(tr("0.35 or 40 %"));
  setAccessibleName(tr("Threshold: a value, or a share with %"));
  hide();
  connect(this, &QLineEdit::returnPressed, this, &StakeField::take);
}

void StakeField::type(int stake, const QString& begun) {
  stake_ = stake;
  setText(begun);
  show();
  setFocus();
}

void StakeField::take() {
  QString words = text().trimmed();
  const bool share = words.endsWith(QLatin1Char('%'));
  if (share) words.chop(1);
  const auto value = evaluate(words);
  if (!value || (share && !(*value >= 0 && *value <= 100)))
    return emit refused(
        tr("“%1” is no threshold; accepted: a value such as 0.35, or a share from 0 % to 100 %")
            .arg(text().left(40)));
  leave();
  if (share)
    histogram_.setShare(stake_, *value / 100);
  else
    histogram_.moveStake(stake_, *value);
}

void StakeField::leave() {
  hide();
  histogram_.setFocus();
}

void StakeField::keyPressEvent(QKeyEvent* e) {
  if (e->key() == Qt::Key_Escape) return leave();
  QLineEdit::keyPressEvent(e);
}

}  // namespace app

#include "moc_stake_field.cpp"
