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

/// What is kept of a trained network: enough to ask it about raw records, to go on with its run to
/// the last bit, and to read it with any JSON tool. `docs/schemas/model.schema.json` describes the
/// file.
struct ModelFile {
  Model model;
  Lesson lesson;  ///< what it was trained by
  RunRecord run;
  std::string data_name;          ///< what it learnt from
  std::int64_t rows = 0;          ///< how many rows that had, all parts together
  std::uint64_t fingerprint = 0;  ///< of those rows
};

/// The version of the files that are written. Older ones can be read, newer ones cannot.
inline constexpr int model_file_version = 3;

/// How a model file is written.
enum class ModelFormat : std::uint8_t {
  json,  ///< to be read by anything
  cbor   ///< the same in fewer bytes (RFC 8949)
};

[[nodiscard]] Json to_json(const ModelFile& file);

/// What a model file may name that is one's own: to be handed in, since the file has only words.
struct OwnThings {
  std::span<const Layer> layers = {};
  std::span<const Loss> losses = {};
};

/// @param name stands for the document in messages
/// @throws FileError that says what is missing, of the wrong shape, or too new.
[[nodiscard]] ModelFile model_from_json(const Json& json, const std::string& name,
                                        const OwnThings& own = {});

/// Writes a model file; whatever happens, it is the old one or the new one, whole.
/// @throws FileError; the old file is untouched then.
void save_model(const std::filesystem::path& path, const ModelFile& file,
                ModelFormat format = ModelFormat::json);

/// Reads a model file of either format. @throws FileError.
[[nodiscard]] ModelFile load_model(const std::filesystem::path& path, const OwnThings& own = {});

}  // namespace lattice
