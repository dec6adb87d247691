/// The row above the map: the world's name, its seed and the seeds before it, and what the map
/// shows.
#pragma once

#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QToolButton>
#include <QWidget>
#include <array>
#include <optional>
#include <vector>

#include "app/document/seed_history.h"
#include "app/edit/choice.h"
#include "app/edit/number_field.h"
#include "app/window/panes.h"
#include "app/window/settings.h"
#include "app/window/showing.h"
#include "output/picture.h"

namespace app {

class TitleRow : public QWidget {
  Q_OBJECT

 public:
  explicit TitleRow(Settings& settings, QWidget* parent = nullptr);

  void setName(const QString& name, const QString& file);
  /// The seed in use; it joins the history unless it is there already.
  void setSeed(const QString& seed);

  /// A readable seed that was never looked at.
  void roll();
  void earlier();
  /// The seed after the present one in the history; at its end a new one.
  void later();
  /// What can be shown: the fixed pictures, every field, and the layer chosen in the editor.
  void setPictures(const acre::Recipe& recipe, const acre::Picture& shown, const std::string& field,
      const std::string& layer);
  /// Shows which view fills the large pane.
  void setPane(Panes::Large large);
  void toggleChunks() { chunks_->click(); }
  void toggleRing() { ring_->click(); }

 signals:
  void seedChosen(const QString& seed);
  void seedLeft();  ///< The user went to another seed by roll() or later().
  void paneChosen(Panes::Large large);
  void pictureChosen(const acre::Picture& picture);
  void upToChosen(acre::StageId last);
  void chunksShown(bool shown);
  void ringShown(bool shown);
  void viewDistanceChosen(qint64 cells);
  void refused(const QString& reason);
  void leaveRequested();  ///< Esc in a field.

 protected:
  bool eventFilter(QObject*, QEvent*) override;
  void resizeEvent(QResizeEvent*) override;

 private:
  /// In a window too narrow for all, words go first and fields stand closer.
  void setNarrow(bool narrow);
  void buildSeed(QHBoxLayout* row);
  void buildView(QHBoxLayout* row);
  QToolButton* addButton(
      QHBoxLayout* row, const QString& text, const QString& name, const QString& tip);
  void showHistory();

  Settings& settings_;
  SeedHistory history_;
  QString current_;
  QLabel* name_;
  QLineEdit* seed_;
  QToolButton* seeds_;
  std::array<QToolButton*, 3> panes_{};
  Choice* picture_;
  std::vector<acre::Picture> pictures_;
  Choice* upTo_;
  QToolButton* chunks_;
  QToolButton* ring_;
  NumberField* distance_;
  std::vector<QLabel*> captions_;
  std::optional<bool> narrow_;
};

}  // namespace app
