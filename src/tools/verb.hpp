#pragma once

#include <cstdint>
#include <functional>
#include <string>
#include <vector>

namespace lattice::tools {

/// Something that may be said behind a verb: an option, `--rate 0.1`, or, where the name has no
/// dashes, a word that is known by its place.
struct Option {
  /// What else the command line has to be like where an option is given.
  struct Demands {
    bool required = false;      ///< it has to be given
    std::string needs = {};     ///< another option without which it cannot be given
    std::string excludes = {};  ///< another option with which it cannot be given
  };

  /// How many texts stand behind it.
  enum class Takes : std::uint8_t {
    none,     ///< it is a flag: yes where it is given
    one,      ///< one
    two,      ///< two
    repeated  ///< one each time it is given; as a word without dashes, as many as there are
  };

  std::string name;      ///< `--steps,--step` where it has a second name
  std::string sentence;  ///< what it is, for the help
  std::string type;      ///< what stands behind it: `FILE`
  std::string heading;   ///< what it stands under in the help
  Takes takes;
  Demands demands;

  /// What is done with the texts, all together; of a flag `true` or `false`. May refuse them.
  std::function<void(const std::vector<std::string>& texts)> read;
};

/// A verb of the command: what may be said behind it, and what it then does.
class Verb {
 public:
  using Demands = Option::Demands;

  Verb(std::string name, std::string sentence)
      : name_(std::move(name)), sentence_(std::move(sentence)) {}

  /// What is declared from here on stands under this heading in the help.
  void heading(std::string heading) { heading_ = std::move(heading); }

  /// Declares a flag, a text, and two texts or more. What was said ends up at the place, which has
  /// to be there when the command line is read.
  void flag(std::string name, bool& place, std::string sentence, Demands demands = {});
  void text(std::string name, std::string& place, std::string sentence, std::string type = "TEXT",
            Demands demands = {});
  /// Declares the path of a file. An empty one is refused.
  void file(std::string name, std::string& place, std::string sentence, std::string type = "FILE");

  void two_texts(std::string name, std::vector<std::string>& place, std::string sentence,
                 std::string type);
  void texts(std::string name, std::vector<std::string>& place, std::string sentence,
             std::string type = "TEXT", Demands demands = {});

  /// Declares a text that is read by a function, which may refuse it.
  void read(std::string name, std::function<void(const std::string&)> read, std::string sentence,
            std::string type, Demands demands = {});

  /// The same, with a call for each time it is given.
  void read_each(std::string name, std::function<void(const std::string&)> read,
                 std::string sentence, std::string type);

  /// A flag that may be denied, `--shuffled=false`.
  void read_flag(std::string name, std::function<void(bool)> read, std::string sentence);

  /// What the verb does once all that was said is in its place.
  void runs(std::function<void()> run) { run_ = std::move(run); }

  /// Declares a verb of this verb, `draw curves`: one of them has to be said then.
  void add(Verb verb) { verbs_.push_back(std::move(verb)); }

  [[nodiscard]] const std::string& name() const { return name_; }
  [[nodiscard]] const std::string& sentence() const { return sentence_; }
  [[nodiscard]] const std::vector<Option>& options() const { return options_; }
  [[nodiscard]] const std::vector<Verb>& verbs() const { return verbs_; }
  [[nodiscard]] const std::function<void()>& run() const { return run_; }

 private:
  void declare(std::string name, std::string sentence, std::string type, Option::Takes takes,
               Demands demands, std::function<void(const std::vector<std::string>&)> read);

  std::string name_;
  std::string sentence_;
  std::string heading_ = "Options";
  std::vector<Option> options_ = {};
  std::vector<Verb> verbs_ = {};
  std::function<void()> run_ = nullptr;
};

}  // namespace lattice::tools
