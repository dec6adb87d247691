/// What the tests of water share.
#pragma once

#include <QtTest>

#include "recipe/recipe.h"
#include "world/engine.h"
#include "world/world.h"

inline std::shared_ptr<const acre::World> worldOf(
    const acre::Recipe& recipe, uint64_t memoBytes = 64u << 20) {
  acre::EngineOptions options;
  options.threads = 2;
  options.memoBytes = memoBytes;
  auto world = std::move(acre::Engine::create(options)).value()->compile(recipe);
  if (!world) qFatal("%s", world.error().text().c_str());
  return *world;
}
