#pragma once

#include <cstdint>
#include <functional>
#include <string>
#include <utility>
#include <vector>

namespace lattice::tools {

/// An argument of a verb: an option, `--rate 0.1`, or a positional argument if the name has no
/// dashes.
struct Option {
  /// Conditions on other options.
  struct Demands {
    bool required = false;      ///< must be given
    std::string needs = {};     ///< another option that must be given, too
    std::string excludes = {};  ///< another option that must not be given
  };

  /// The number of its values.
  enum class Takes : std::uint8_t {
    none,     ///< a flag
    one,      ///< one
    two,      ///< two
    repeated  ///< one each time it is given; any number for a positional argument
  };

  std::string name;      ///< `--steps,--step` with a second name
  std::string sentence;  ///< its help
  std::string type;      ///< of the value in the help: `FILE`
  std::string heading;   ///< its heading in the help
  Takes takes;
  Demands demands;

  /// Takes all values, for a flag `true` or `false`. May throw.
  std::function<void(const std::vector<std::string>& texts)> read;
};

struct Console;

/// A verb of the command: its arguments and its action.
class Verb {
 public:
  using Demands = Option::Demands;
  using Declare = std::function<void(Verb& verb, Console& console)>;

  /// @param declare declares the arguments and the action; called for the verb that is given only,
  ///        as those of all verbs would take longer than anything else when the command starts
  Verb(std::string name, std::string sentence, Console& console, Declare declare)
      : name_(std::move(name)),
        sentence_(std::move(sentence)),
        console_(&console),
        declare_(std::move(declare)) {}

  /// Makes the declarations.
  void declare() { declare_(*this, *console_); }

  /// Sets the help heading of the following declarations.
  void heading(std::string heading) { heading_ = std::move(heading); }

  /// Declare a flag, a text, and several texts. The values are stored in the given variables, which
  /// must exist when the command line is parsed.
  void flag(std::string name, bool& place, std::string sentence, Demands demands = {});
  void text(std::string name, std::string& place, std::string sentence, std::string type = "TEXT",
            Demands demands = {});
  /// Declares a file path. An empty one is refused.
  void file(std::string name, std::string& place, std::string sentence, std::string type = "FILE");

  void two_texts(std::string name, std::vector<std::string>& place, std::string sentence,
                 std::string type);
  void texts(std::string name, std::vector<std::string>& place, std::string sentence,
             std::string type = "TEXT", Demands demands = {});

  /// Declares a text with a function that reads it and may throw.
  void read(std::string name, std::function<void(const std::string&)> read, std::string sentence,
            std::string type, Demands demands = {});

  /// The same, with a call for each occurrence.
  void read_each(std::string name, std::function<void(const std::string&)> read,
                 std::string sentence, std::string type);

  /// A flag that can be negated, `--shuffled=false`.
  void read_flag(std::string name, std::function<void(bool)> read, std::string sentence);

  /// The action, after all values are stored.
  void runs(std::function<void()> run) { run_ = std::move(run); }

  /// Declares a subverb, `draw curves`: then one of them is required.
  void add(Verb verb) { verbs_.push_back(std::move(verb)); }

  [[nodiscard]] const std::string& name() const { return name_; }
  [[nodiscard]] const std::string& sentence() const { return sentence_; }
  [[nodiscard]] const std::vector<Option>& options() const { return options_; }
  [[nodiscard]] std::vector<Verb>& verbs() { return verbs_; }
  [[nodiscard]] const std::function<void()>& run() const { return run_; }

 private:
  void declare(std::string name, std::string sentence, std::string type, Option::Takes takes,
               Demands demands, std::function<void(const std::vector<std::string>&)> read);

  std::string name_;
  std::string sentence_;
  Console* console_;
  Declare declare_;
  std::string heading_ = "Options";
  std::vector<Option> options_ = {};
  std::vector<Verb> verbs_ = {};
  std::function<void()> run_ = nullptr;
};

}  // namespace lattice::tools
