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

/// What subjects add to everything that is shown.
namespace lattice {

/// The text of several files, one after another.
using PageText = std::span<const std::string_view>;

/// What a page looks like, and does, in CSS and JavaScript.
struct StyleAndScript {
  PageText style = {};
  PageText script = {};
};

/// What `show_data` says of rows of one subject.
struct DataView {
  std::string about;  ///< the first lines
  std::string feature_role = "feature";
  bool lists_features = true;  ///< whether a table of their figures follows
  std::string heading = {};    ///< of the first rows
  std::string rows = {};       ///< these, as text
};

/// A chart of one subject, as a kind of `lattice draw`.
struct SubjectChart {
  /// An option of its own; its text is read by `draw`.
  struct Option {
    std::string name;  ///< `--units`
    std::string type;  ///< `A,B`
    std::string sentence;
  };

  /// What was asked for.
  struct Request {
    std::string out;  ///< the file
    std::int64_t frames = 60;
    std::map<std::string, std::string, std::less<>> options = {};  ///< those that were given
    std::function<TrainedLesson()> trained = nullptr;  ///< trains the lesson, or reads the model
  };

  std::string name;  ///< `nodes`
  std::string sentence;
  std::vector<Option> options = {};
  bool moves = false;  ///< whether a .gif shows the run
  Chart (*draw)(const Request& request) = nullptr;
};

/// A way to write a dataset out, as an option of `lattice data`.
struct DataWriter {
  std::string option;  ///< `--idx`
  std::string type;    ///< `FOLDER`
  std::string sentence;
  bool is_folder = false;
  void (*write)(const Dataset& data, const std::filesystem::path& path) = nullptr;
};

/// What a model is asked about.
struct Questions {
  Examples raw = {};                    ///< records as they were measured; or none, and
  std::vector<std::int64_t> rows = {};  ///< rows of the model (`Model::rows`)
  std::vector<std::string> names = {};  ///< of the records, where they have any
  std::vector<std::string> files = {};  ///< of each record, where it has one
  std::vector<std::string> notes = {};  ///< in a line each: what was changed to make them fit

  /// The records as they are displayed, each with its answer; nothing where they are not.
  std::function<std::string(const Model& model, const Answers& answers, const TerminalStyle& style)>
      show = nullptr;
};

/// How a model is asked about things of one subject, as an option of `lattice ask`.
struct QuestionKind {
  std::string option;  ///< `--node`; without dashes, whatever stands behind the model
  std::string type;    ///< `NAME`
  std::string sentence;
  std::string thing;       ///< what is asked about: `nodes`
  std::string example;     ///< what to type behind the model
  bool is_worked = false;  ///< whether `work` and `why` take it, too

  /// Whether a model is asked about such things.
  bool (*fits)(const Model& model) = nullptr;

  /// Whether a file holds such things and no table.
  bool (*holds)(const std::filesystem::path& file) = nullptr;

  Questions (*read)(const ModelFile& file, const std::vector<std::string>& texts) = nullptr;

  /// A file of such things with their labels, as rows to assess the model by.
  /// @param notes gets a line for each thing that was changed
  Dataset (*labelled)(const ModelFile& file, const std::string& path, const std::string& labels,
                      std::vector<std::string>& notes) = nullptr;
};

/// What a subject adds to the page that watches a run.
class WatchedSubject {
 public:
  WatchedSubject() = default;
  WatchedSubject(const WatchedSubject&) = delete;
  WatchedSubject& operator=(const WatchedSubject&) = delete;
  virtual ~WatchedSubject() = default;

  /// What the two that follow stand under: `graph`.
  [[nodiscard]] virtual std::string_view key() const = 0;

  /// What the page has to know before the run; null for nothing.
  [[nodiscard]] virtual Json lesson() const;

  /// What it shows of a moment. @param rows of the part that is watched
  [[nodiscard]] virtual Json moment(const Network& network, const RowSet& rows) const = 0;
};

/// What a kind of data, such as pictures or graphs, adds to everything that is shown. What it
/// leaves out is as for plain tables.
struct ShownSubject {
  std::string_view name;  ///< that of its rows (`RowKind::name`)

  DataView (*data_view)(const Dataset& data, const TerminalStyle& style) = nullptr;
  Json (*data_json)(const Dataset& data) = nullptr;  ///< stands under `name`

  /// What the page of a worked example has under `name`, and what draws it; null where it has
  /// nothing to draw.
  Json (*page_json)(const WorkedExample& example) = nullptr;
  StyleAndScript page = {};

  /// The same for the page that watches a run.
  std::unique_ptr<WatchedSubject> (*watched)(const Prepared& prepared) = nullptr;
  StyleAndScript watch = {};

  std::vector<SubjectChart> charts = {};
  std::vector<DataWriter> writers = {};
  std::optional<QuestionKind> question = std::nullopt;
};

/// Makes what a subject shows known.
void know(const ShownSubject& subject);

/// Every subject that is known, in the order in which they came.
[[nodiscard]] const std::vector<ShownSubject>& shown_subjects();

/// The subject that a dataset's rows belong to; null for plain rows.
[[nodiscard]] const ShownSubject* shown_subject_of(const Dataset& data);

}  // namespace lattice
