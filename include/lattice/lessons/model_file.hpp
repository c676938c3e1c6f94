#pragma once

#include <cstdint>
#include <filesystem>
#include <span>
#include <string>
#include <string_view>

#include "lattice/files/json.hpp"
#include "lattice/judging/model.hpp"
#include "lattice/learning/run_record.hpp"
#include "lattice/lessons/lesson.hpp"

namespace lattice {

/// A trained network as a file: enough to ask it about raw records, to resume its run with the same
/// bits, and to read it with any JSON tool. `docs/schemas/model.schema.json` describes the file.
struct ModelFile {
  Model model;
  Lesson lesson;  ///< it was trained by
  RunRecord run;
  std::string data_name;          ///< of its training data
  std::int64_t rows = 0;          ///< of these, in all parts together
  std::uint64_t fingerprint = 0;  ///< of those rows

  /// A part of the data with files of its own.
  struct PartOfFile {
    DataPart part = DataPart::test;
    std::string name = {};
    std::int64_t rows = 0;
    std::uint64_t fingerprint = 0;

    friend bool operator==(const PartOfFile&, const PartOfFile&) = default;
  };
  std::vector<PartOfFile> parts = {};
};

/// The parts of a dataset that have files of their own, as a model file records them.
[[nodiscard]] std::vector<ModelFile::PartOfFile> parts_of_files(const Dataset& data);

/// The version of the files that are written and read. Files of other versions are refused.
inline constexpr int model_file_version = 3;

/// The format of a model file.
enum class ModelFormat : std::uint8_t {
  json,  ///< readable by anything
  cbor  ///< the same in fewer bytes (RFC 8949): tensors are byte strings, their numbers in order, 8
        ///< bytes each (IEEE 754) or 4 in single precision, that of lowest value first
};

/// Of more weights than this a model file is CBOR, unless something else is asked for.
inline constexpr std::int64_t most_readable_weights = 100'000;

[[nodiscard]] Json to_json(const ModelFile& file, ModelFormat format = ModelFormat::json);

/// Your own layers and losses, to be passed in, since a model file has only their words.
struct OwnThings {
  std::span<const Layer> layers = {};
  std::span<const Loss> losses = {};
};

/// @param name stands for the document in messages
/// @throws FileError that says what is missing, of the wrong shape, or too new.
[[nodiscard]] ModelFile model_from_json(const Json& json, const std::string& name,
                                        const OwnThings& own = {});

/// Writes a model file; if anything fails, the old file stays as it is. @throws FileError.
/// @param format without one JSON, but CBOR of more than `most_readable_weights`
void save_model(const std::filesystem::path& path, const ModelFile& file,
                std::optional<ModelFormat> format = std::nullopt);

/// Reads a model file of either format. @throws FileError.
[[nodiscard]] ModelFile load_model(const std::filesystem::path& path, const OwnThings& own = {});

}  // namespace lattice
