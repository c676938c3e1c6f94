#pragma once

#include <exception>
#include <string>
#include <utility>

namespace lattice {

/// A setting of a lesson that would help, and a value for it. A program words it in its own way:
/// the command as a flag.
struct Advice {
  std::string setting = {};  ///< `missing`, `scale`; empty for no advice
  std::string value = {};    ///< `drop`; empty if the user chooses it
};

/// A line of a text, and the part of it that a message is about.
struct Excerpt {
  std::string text = {};
  std::size_t from = 0;     ///< the first letter of the part
  std::size_t columns = 0;  ///< its length; at least one letter is marked
};

/// The fields of an error, so that a terminal, a page or a program can show it in its own way. Only
/// `what` is never empty.
struct Trouble {
  std::string what;           ///< one sentence
  std::string where = {};     ///< file, row and column, line of the worksheet, axis
  Excerpt excerpt = {};       ///< the line there, if it was read from text
  std::string expected = {};  ///< what would be right
  std::string found = {};     ///< the actual value
  std::string remedy = {};    ///< what to try
  Advice advice = {};         ///< the remedy as a setting
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

/// Shapes that do not fit each other, or an impossible shape.
class ShapeError : public Error {
 public:
  using Error::Error;
};

/// An index or a row number outside its range.
class IndexError : public Error {
 public:
  using Error::Error;
};

/// An unknown or ambiguous name.
class NameError : public Error {
 public:
  using Error::Error;
};

/// A setting with an impossible value: a minibatch of no rows, a negative rate.
class SettingError : public Error {
 public:
  using Error::Error;
};

/// Numbers that cannot be used: NaN, infinity, two precisions in one operation.
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

/// Another program that is missing or fails: the one that draws charts or graphs.
class ProgramError : public Error {
 public:
  using Error::Error;
};

}  // namespace lattice
