/// Editor of the Strata stage: altitude bands with their shares of the world, and the materials.
#pragma once

#include <QToolButton>

#include "app/document/statistics.h"
#include "app/edit/editor.h"

namespace app {

/// All bands from low to high as parts of one bar, each as long as its share.
class ShareBar : public QWidget {
  Q_OBJECT

 public:
  struct Part {
    double share;
    QColor colour;
    bool hole;
    QString text;
  };
  explicit ShareBar(QWidget* parent = nullptr);
  void setParts(std::vector<Part> parts);

 protected:
  void paintEvent(QPaintEvent*) override;
  bool event(QEvent*) override;

 private:
  std::vector<Part> parts_;
};

class StrataEditor : public Editor {
  Q_OBJECT

 public:
  StrataEditor(Document& document, Statistics& statistics, QWidget* parent = nullptr);
  void refresh();
  /// Shares alone; cheap.
  void refreshShares();

 private:
  struct BandRow {
    std::string id;
    bool last;
    Choice* material;
    Tick* fromSea;
    QLabel* share;
  };
  struct MaterialRow {
    std::string id;
    QToolButton* colour;
    QLineEdit* name;
    Choice* state;
    QToolButton* remove;
  };

  void rebuild();
  void addBandRow(QVBoxLayout* column, const acre::Band& band, bool last);
  void addMaterialRow(QVBoxLayout* column, const acre::Material& material);

  Statistics& statistics_;
  QVBoxLayout* column_;
  QWidget* body_ = nullptr;
  QLabel* scope_;
  ShareBar* bar_;
  std::vector<BandRow> bands_;
  std::vector<MaterialRow> materials_;
  std::vector<acre::Material> listed_;  // What the choices of material offer.
};

}  // namespace app
