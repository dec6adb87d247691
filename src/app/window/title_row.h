/// The row above the map: the world's name, its seed and the seeds before it, and what the map
/// shows. Where the window is narrow the seed and the picture take less; then what does not fit
/// folds into the menu More: first the view distance, then Ring, Chunks, Up to, the picture and
/// last the seeds so far. The name is cut only after all of them.
#pragma once

#include <QFrame>
#include <QGridLayout>
#include <QHBoxLayout>
#include <QLabel>
#include <QLineEdit>
#include <QToolButton>
#include <QWidget>
#include <array>
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

  QSize minimumSizeHint() const override { return {320, height()}; }

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
  /// A part of the row that may stand in the menu instead.
  struct Foldable {
    QWidget* slot;  ///< Its place in the row.
    QWidget* part;
    QLabel* label;  ///< Its name in the menu.
    bool folded = false;
  };
  QWidget* addFoldable(QHBoxLayout* row, QWidget* part, const QString& label, const QString& word);
  void fold(Foldable& each, bool folded);
  /// Folds what does not fit.
  void fit();
  void setTight(bool tight);
  void showFolded();
  void buildSeed(QHBoxLayout* row);
  void buildView(QHBoxLayout* row);
  QToolButton* makeButton(const QString& text, const QString& name, const QString& tip);
  QToolButton* addButton(
      QHBoxLayout* row, const QString& text, const QString& name, const QString& tip);
  void showHistory();

  Settings& settings_;
  SeedHistory history_;
  QString current_;
  QString fullName_;
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
  std::vector<Foldable> foldables_;  ///< As they stand in the row; the last folds first.
  QToolButton* more_;
  QFrame* folded_;
  QGridLayout* foldedRows_;
};

}  // namespace app
