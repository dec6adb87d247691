#include "app/edit/stage_note.h"

namespace app {

StageNote::StageNote(Document& document, QWidget* parent) : Editor(document, parent) {
  auto* column = new QVBoxLayout(this);
  column->setContentsMargins(16, 0, 16, 4);
  box_ = bindNote(
      QStringLiteral("editor.note"), tr("Note on a stage"),
      [this](const acre::Recipe& r) { return std::optional(r.notes.*acre::defOf(stage_).note); },
      [this](
          acre::Recipe& r, const std::string& text) { r.notes.*acre::defOf(stage_).note = text; });
  column->addWidget(box_);
  connect(box_, &TextBox::left, this, &StageNote::refresh);
  refresh();
}

const std::string& StageNote::text() const {
  return document_.recipe().notes.*acre::defOf(stage_).note;
}

void StageNote::refresh() {
  refreshControls();
  setVisible(!text().empty() || box_->hasFocus());
}

void StageNote::setStage(acre::StageId stage) {
  if (box_->hasFocus()) box_->clearFocus();  // What was typed belongs to the stage before.
  stage_ = stage;
  refresh();
}

void StageNote::write() {
  show();
  box_->setFocus();
}

}  // namespace app

#include "moc_stage_note.cpp"
