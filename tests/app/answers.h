/// Answers to every dialog of the window.
#pragma once

#include "app/window/dialogs.h"

using namespace app;

/// Answers in the user's place.
class Answers : public Dialogs {
 public:
  QString open, save, text;
  Unsaved unsaved = Unsaved::Discard;
  int asked = 0;
  QString openFile(QWidget*, const QString&, const QString&) override { return open; }
  QString saveFile(QWidget*, const QString&, const QString&, const QString&) override {
    return save;
  }
  Unsaved askUnsaved(QWidget*, const QString&) override { return ++asked, unsaved; }
  std::optional<QString> askText(
      QWidget*, const QString&, const QString&, const QString&) override {
    return text;
  }
  void tell(QWidget*, const QString&, const QString&) override {}
};
