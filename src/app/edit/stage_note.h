/// The note on a stage, below its title.
#pragma once

#include "app/edit/editor.h"
#include "recipe/stages.h"

namespace app {

/// Out of sight while there is none, until it is asked for.
class StageNote : public Editor {
  Q_OBJECT

 public:
  explicit StageNote(Document& document, QWidget* parent = nullptr);
  void refresh() override;
  void setStage(acre::StageId stage);
  /// Puts the cursor into it.
  void write();

 private:
  const std::string& text() const;

  acre::StageId stage_ = acre::StageId::Frame;
  TextBox* box_;
};

}  // namespace app
