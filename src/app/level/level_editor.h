/// Editor of the stage Level: the processes that make a floor, and the places that must be there.
#pragma once

#include <stop_token>

#include "app/document/courier.h"
#include "app/edit/editor.h"
#include "app/edit/text_box.h"
#include "audit/level_audit.h"

namespace app {

class LevelEditor : public Editor {
  Q_OBJECT

 public:
  explicit LevelEditor(Document& document, QWidget* parent = nullptr);
  ~LevelEditor() override;
  void refresh() override;
  /// Measures the floor of the document's world, if it is another one.
  void worldChanged();
  /// What the floor is like, for the head of the editor.
  QString figures() const override;
  /// Puts the focus on the control at a JSON pointer of the stage.
  void showPointer(const std::string& pointer) override;
  bool settled() const { return !measuring_; }

 signals:
  /// A process is to be seen at work.
  void replayRequested(const QString& process);
  /// A text or picture of a room is to be chosen.
  void roomFileRequested(const QString& process, const QString& piece);

 public slots:
  /// What the window's dialog found.
  void setRoomFile(const QString& process, const QString& piece, const QString& file);

 private:
  using Process = acre::LevelProcess;

  void rebuild();
  void addFloor(QVBoxLayout* column);
  void addProcess(QVBoxLayout* column, const Process& process);
  void addPlace(QVBoxLayout* column, const acre::LevelPlace& place);
  void addPieces(QVBoxLayout* column, const Process& process);
  void addPiece(QVBoxLayout* column, const Process& process, const acre::LevelRooms::Piece& piece);
  TextBox* roomText(
      const Form<acre::LevelRooms::Piece>& made, const std::string& text, const std::string& id);
  /// The form of what a process is made of.
  template <class T>
  Form<T> formOf(const Process& process);
  void moveProcess(const std::string& id, int by, const QString& step);
  void addButtons(QVBoxLayout* column);
  std::vector<Number> numbersOf(const Process& process) const;
  /// What is no number about a process: rules, shapes, switches.
  void addChoices(QVBoxLayout* column, const Process& process);
  void showFigures();

  std::shared_ptr<Courier<LevelEditor>> courier_;
  QVBoxLayout* column_;
  std::string built_;
  QLabel* state_ = nullptr;     // What the floor is like.
  QWidget* lacking_ = nullptr;  // A warning, and what it lacks.
  QLabel* warning_ = nullptr;
  std::shared_ptr<const acre::World> measured_;
  std::stop_source stop_;
  bool measuring_ = false;
  std::optional<acre::LevelFigures> figures_;
  std::vector<std::string> faults_;
};

}  // namespace app
