/// A part of a value that is known by name where the whole is, and in full only where it is used.
#pragma once

#include <memory>

namespace acre {

/// Holds a T as a member would: copies copy it, comparing compares it, and one that was never
/// touched is T{}. T need not be complete but where * or -> are used, so that a change of T
/// compiles only what looks into it. As with a plain member, several threads may read one part, and
/// one alone may change it.
template <class T>
class Part {
 public:
  Part() = default;
  Part(const T& value) : held_(new T(value), drop), copy_(copied) {}  // NOLINT: as a member would.
  Part(const Part& other) : held_(other.clone()), copy_(other.copy_) {}
  Part(Part&& other) noexcept = default;
  Part& operator=(const Part& other) {
    if (this != &other) {
      held_ = other.clone();
      copy_ = other.copy_;
    }
    return *this;
  }
  Part& operator=(Part&& other) noexcept = default;
  ~Part() = default;

  const T& operator*() const { return held_ ? *held_ : untouched(); }
  const T* operator->() const { return &**this; }
  T& operator*() {
    if (!held_) {
      held_ = Holder(new T(), drop);
      copy_ = copied;
    }
    return *held_;
  }
  T* operator->() { return &**this; }
  bool operator==(const Part& other) const { return **this == *other; }

 private:
  using Holder = std::unique_ptr<T, void (*)(T*)>;
  static void none(T*) {}
  static void drop(T* value) { delete value; }
  static T* copied(const T& value) { return new T(value); }
  static const T& untouched() {
    static const T value{};
    return value;
  }
  Holder clone() const {
    return held_ ? Holder(copy_(*held_), held_.get_deleter()) : Holder(nullptr, none);
  }

  Holder held_{nullptr, none};
  T* (*copy_)(const T&) = nullptr;
};

}  // namespace acre
