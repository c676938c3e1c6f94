#pragma once

#include <exception>
#include <string>
#include <utility>

namespace lattice {

/// A setting of a lesson that would help, and the value to give it. A program words it as it takes
/// settings itself: the command as a flag.
struct Advice {
  std::string setting = {};  ///< `missing`, `scale`; empty where there is no advice
  std::string value = {};    ///< `drop`; empty where it is the user's to choose
};

/// What went wrong, field by field, so that a terminal, a page or a program can show it its own
/// way. Only `what` is always filled.
struct Trouble {
  std::string what;           ///< one sentence
  std::string where = {};     ///< file, row and column, line of the worksheet, axis
  std::string expected = {};  ///< what would have been right
  std::string found = {};     ///< what came instead
  std::string remedy = {};    ///< what to try
  Advice advice = {};         ///< which setting that comes down to
};

/// The base of every exception of this library. `what()` gives the whole message, one field a line.
class Error : public std::exception {
 public:
  explicit Error(Trouble trouble);

  [[nodiscard]] const Trouble& trouble() const noexcept { return trouble_; }
  [[nodiscard]] const char* what() const noexcept override { return message_.c_str(); }

 private:
  Trouble trouble_;
  std::string message_;
};

/// Sizes that do not fit each other, or a shape that cannot be.
class ShapeError : public Error {
 public:
  using Error::Error;
};

/// An index or a row number outside its range.
class IndexError : public Error {
 public:
  using Error::Error;
};

/// A name that stands for nothing, or for more than one thing.
class NameError : public Error {
 public:
  using Error::Error;
};

/// A setting with an impossible value: a minibatch of no rows, a negative rate.
class SettingError : public Error {
 public:
  using Error::Error;
};

/// Numbers that cannot be worked with: NaN, infinity, two precisions in one operation.
class NumberError : public Error {
 public:
  using Error::Error;
};

/// Numbers that do not fit into the memory of the machine.
class MemoryError : public Error {
 public:
  using Error::Error;
};

/// A line used after its worksheet was cleared or has ended, or in another worksheet.
class LineError : public Error {
 public:
  using Error::Error;
};

/// A file that is missing, unreadable, or not what it should be.
class FileError : public Error {
 public:
  using Error::Error;
};

/// Another program that is missing, or fails: the one that draws charts, or graphs.
class ProgramError : public Error {
 public:
  using Error::Error;
};

}  // namespace lattice
