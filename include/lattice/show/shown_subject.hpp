#pragma once

#include <cstdint>
#include <filesystem>
#include <functional>
#include <map>
#include <memory>
#include <optional>
#include <span>
#include <string>
#include <string_view>
#include <vector>

#include "lattice/files/json.hpp"
#include "lattice/learning/worked_example.hpp"
#include "lattice/lessons/model_file.hpp"
#include "lattice/lessons/trained_lesson.hpp"
#include "lattice/show/charts.hpp"
#include "lattice/show/terminal.hpp"

/// The additions of subjects to everything that is shown.
namespace lattice {

/// The text of several files, one after another.
using PageText = std::span<const std::string_view>;

/// The CSS and JavaScript of a page.
struct StyleAndScript {
  PageText style = {};
  PageText script = {};
};

/// A sentence that a script of a page says, by a name, with {gaps} for numbers and names.
struct PageWord {
  std::string_view name;
  std::string_view text;
};

/// A term of the field, which pages explain at a key press.
struct GlossaryTerm {
  std::string_view name;
  std::string_view meaning;

  /// The lines that it is about: stages, operations, sections and update rules, separated by
  /// commas.
  std::string_view where;
};

/// The text of `show_data` for rows of one subject.
struct DataView {
  std::string about;  ///< the first lines
  std::string feature_role = "feature";
  bool lists_features = true;  ///< whether a table of features follows
  std::string heading = {};    ///< of the first rows
  std::string rows = {};       ///< the first rows, as text
};

/// A chart of one subject, as a kind of `lattice draw`.
struct SubjectChart {
  /// An option of the chart; `draw` reads its text.
  struct Option {
    std::string name;  ///< `--units`
    std::string type;  ///< `A,B`
    std::string sentence;
  };

  /// The request.
  struct Request {
    std::string out;  ///< the file
    std::int64_t frames = 60;
    std::map<std::string, std::string, std::less<>> options = {};  ///< the given ones
    std::function<TrainedLesson()> trained = nullptr;  ///< trains the lesson, or reads the model
  };

  std::string name;  ///< `nodes`
  std::string sentence;
  std::vector<Option> options = {};
  bool moves = false;       ///< whether a .gif shows the run
  bool takes_rows = false;  ///< whether a model may have the rows of a file in place of its own
  Chart (*draw)(const Request& request) = nullptr;
};

/// A file format for a dataset, as an option of `lattice data`.
struct DataWriter {
  std::string option;  ///< `--idx`
  std::string type;    ///< `FOLDER`
  std::string sentence;
  bool is_folder = false;
  void (*write)(const Dataset& data, const std::filesystem::path& path) = nullptr;
};

/// The subjects of questions to a model.
struct Questions {
  Examples raw = {};                    ///< raw records; or none, and
  std::vector<std::int64_t> rows = {};  ///< rows of the model (`Model::rows`)
  std::vector<std::string> names = {};  ///< of the records, if they have any
  std::vector<std::string> files = {};  ///< of each record, if it has one

  /// The truth of each record, a text for each target, empty where it is missing; or nothing.
  std::vector<std::string> truth = {};
  std::vector<std::string> notes = {};  ///< one line for each change that was needed

  /// Each record in words: `thickness 4.1, hours 30`; or nothing.
  std::vector<std::string> records = {};
};

/// An option of `lattice ask` for questions about things of one subject.
struct QuestionKind {
  std::string option;  ///< `--node`; without dashes, the arguments after the model
  std::string type;    ///< `NAME`
  std::string sentence;
  std::string thing;       ///< of the questions: `nodes`
  std::string example;     ///< what to type after the model
  bool is_worked = false;  ///< whether `work` and `why` have it, too

  /// Whether a model answers questions about such things.
  bool (*fits)(const Model& model) = nullptr;

  /// Whether a file contains such things instead of a table.
  bool (*holds)(const std::filesystem::path& file) = nullptr;

  Questions (*read)(const ModelFile& file, const std::vector<std::string>& texts) = nullptr;

  /// Displays raw records, each with its answer; null if they are not displayed.
  std::string (*show)(const Examples& raw, const Model& model, const Answers& answers,
                      const TerminalStyle& style) = nullptr;

  /// Files of such things with their labels, as rows for assessing the model.
  /// @param files read as one; @param labels those of files without labels of their own, in order
  /// @param notes gets a line for each change that was needed
  Dataset (*labelled)(const ModelFile& file, const std::vector<std::string>& files,
                      const std::vector<std::string>& labels,
                      std::vector<std::string>& notes) = nullptr;
};

/// The additions of a subject to the watch page.
class WatchedSubject {
 public:
  WatchedSubject() = default;
  WatchedSubject(const WatchedSubject&) = delete;
  WatchedSubject& operator=(const WatchedSubject&) = delete;
  virtual ~WatchedSubject() = default;

  /// The key of the following two: `graph`.
  [[nodiscard]] virtual std::string_view key() const = 0;

  /// Data for the page before the run; null for none.
  [[nodiscard]] virtual Json lesson() const;

  /// Data for one moment. @param rows of the part that is watched
  [[nodiscard]] virtual Json moment(const Network& network, const RowSet& rows) const = 0;
};

/// The additions of a kind of data, such as pictures or graphs, to everything that is shown.
/// Members left out are as for plain tables.
struct ShownSubject {
  std::string_view name;  ///< that of its rows (`RowKind::name`)

  DataView (*data_view)(const Dataset& data, const TerminalStyle& style) = nullptr;
  Json (*data_json)(const Dataset& data) = nullptr;  ///< under `name`

  /// What the page of a worked example has under `name`, and what draws it; null where it has
  /// nothing to draw.
  Json (*page_json)(const WorkedExample& example) = nullptr;
  StyleAndScript page = {};

  /// The same for the page that watches a run.
  std::unique_ptr<WatchedSubject> (*watched)(const Prepared& prepared) = nullptr;
  StyleAndScript watch = {};

  std::vector<PageWord> words = {};      ///< what these scripts say
  std::vector<GlossaryTerm> terms = {};  ///< of the subject, explained on pages

  std::vector<SubjectChart> charts = {};
  std::vector<DataWriter> writers = {};
  std::optional<QuestionKind> question = std::nullopt;
};

/// Registers the additions of a subject.
void know(const ShownSubject& subject);

/// All registered subjects, in order.
[[nodiscard]] const std::vector<ShownSubject>& shown_subjects();

/// The subject of the rows of a dataset; null for plain rows.
[[nodiscard]] const ShownSubject* shown_subject_of(const Dataset& data);

}  // namespace lattice
