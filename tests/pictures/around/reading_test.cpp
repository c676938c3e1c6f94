#include "lattice/pictures/around/reading.hpp"

#include <gmock/gmock.h>
#include <gtest/gtest.h>
#include <sys/stat.h>
#include <zlib.h>

#include <fstream>
#include <set>

#include "lattice/files/idx.hpp"
#include "lattice/files/npy.hpp"
#include "lattice/files/png.hpp"
#include "lattice/lattice.hpp"
#include "support/process.hpp"
#include "support/said.hpp"

namespace lattice {
namespace {

using ::testing::AllOf;
using ::testing::ElementsAre;
using testing::Folder;
using ::testing::HasSubstr;
using ::testing::IsEmpty;
using testing::said;

void write_bytes(const std::filesystem::path& path, const std::string& bytes) {
  std::filesystem::create_directories(path.parent_path());
  std::ofstream(path, std::ios::binary) << bytes;
}

std::string idx(std::initializer_list<int> bytes) {
  std::string text;
  for (const int byte : bytes)
    text += static_cast<char>(byte);
  return text;
}

TEST(idx_files, of_every_type_are_read) {
  const auto numbers = [](std::initializer_list<int> bytes) {
    return parse_idx(idx(bytes), "some.idx").numbers();
  };
  EXPECT_THAT(numbers({0, 0, 0x08, 1, 0, 0, 0, 2, 3, 255}), ElementsAre(3, 255));
  EXPECT_THAT(numbers({0, 0, 0x09, 1, 0, 0, 0, 2, 3, 255}), ElementsAre(3, -1));
  EXPECT_THAT(numbers({0, 0, 0x0B, 1, 0, 0, 0, 2, 1, 0, 255, 254}), ElementsAre(256, -2));
  EXPECT_THAT(numbers({0, 0, 0x0C, 1, 0, 0, 0, 1, 255, 255, 255, 255}), ElementsAre(-1));
  EXPECT_THAT(numbers({0, 0, 0x0D, 1, 0, 0, 0, 1, 0x3F, 0xC0, 0, 0}), ElementsAre(1.5));
  EXPECT_THAT(numbers({0, 0, 0x0E, 1, 0, 0, 0, 1, 0xC0, 4, 0, 0, 0, 0, 0, 0}), ElementsAre(-2.5));
}

TEST(idx_files, are_written_as_they_are_read_gzipped_or_not) {
  const Examples bytes = Examples::of_bytes({2, 2, 3}, {1, 2, 3, 4, 5, 6, 7, 8, 9, 10, 11, 255});
  const Tensor numbers = tensor({{0.5, -1e300}, {3, 4}});
  for (const Examples& each : {bytes, Examples(numbers)}) {
    const Examples plain = parse_idx(to_idx(each), "a.idx");
    EXPECT_EQ(plain, each);
    EXPECT_EQ(plain.are_bytes(), each.are_bytes());
    EXPECT_EQ(parse_idx(gzipped(to_idx(each)), "a.idx.gz"), each);
    // Two gzip files one after another are one.
    const std::string whole = to_idx(each);
    EXPECT_EQ(parse_idx(gzipped(whole.substr(0, 9)) + gzipped(whole.substr(9)), "a.idx.gz"), each);
  }
}

TEST(idx_files, that_are_damaged_are_refused) {
  const std::string whole = to_idx(Examples::of_bytes({2, 2, 2}, {1, 2, 3, 4, 5, 6, 7, 8}));
  const auto refused = [](const std::string& bytes) {
    return said<FileError>([&] { (void)parse_idx(bytes, "bad.idx"); });
  };
  EXPECT_THAT(refused(""), AllOf(HasSubstr("no IDX file"), HasSubstr("bad.idx")));
  EXPECT_THAT(refused("row,label\n1,2\n"), HasSubstr("114 111 119 44"));
  EXPECT_THAT(refused(whole.substr(0, 10)), HasSubstr("header is truncated"));
  EXPECT_THAT(refused(whole.substr(0, 18)), AllOf(HasSubstr("8 bytes"), HasSubstr("found:    2")));
  EXPECT_THAT(refused(whole + "x"), HasSubstr("continues after its end"));
  EXPECT_THAT(refused(idx({0, 0, 8, 2, 0, 0, 0, 0, 0, 0, 0, 3})), HasSubstr("0 × 3"));
  EXPECT_THAT(refused(idx({0, 0, 8, 9, 0, 0, 0, 1})), HasSubstr("this many axes"));
  EXPECT_THAT(refused(idx({0, 0, 14, 3, 127, 0, 0, 0, 0, 1, 0, 0, 0, 1, 0, 0})),
              HasSubstr("more than fits into memory"));
  // One that only claims to be large takes no memory for it.
  EXPECT_THAT(refused(idx({0, 0, 8, 2, 0, 16, 0, 0, 0, 0, 4, 0, 1, 2, 3})), HasSubstr("truncated"));
  const std::string packed = gzipped(whole);
  EXPECT_THAT(refused(packed.substr(0, packed.size() - 12)), HasSubstr("truncated"));
  std::string lying = packed;
  lying[lying.size() - 2] = static_cast<char>(lying[lying.size() - 2] + 1);
  EXPECT_THAT(refused(lying), HasSubstr("damaged"));
}

TEST(npy_files, are_written_as_they_are_read) {
  const std::vector<Examples> all = {
      Examples::of_bytes({2, 3}, {1, 2, 3, 4, 5, 6}), Examples(tensor({1.5, -2, 1e300})),
      Examples(tensor({{1, 2}, {3, 4}}, Precision::single)), Examples(tensor(7.0))};
  for (const Examples& each : all) {
    const Examples back = parse_npy(to_npy(each), "a.npy");
    EXPECT_EQ(back, each);
    EXPECT_EQ(back.precision(), each.precision());
  }
}

/// An array as other programs write one.
std::string array(const std::string& header, const std::string& body) {
  std::string padded = header + "\n";
  return std::string("\x93NUMPY\x01") + '\0' + static_cast<char>(padded.size()) + '\0' + padded +
         body;
}

TEST(npy_files, of_other_orders_and_types_are_read) {
  const auto read = [](const std::string& type, bool first_fastest, const std::string& shape,
                       const std::string& body) {
    return parse_npy(array(fmt::format("{{'descr': '{}', 'fortran_order': {}, 'shape': {}, }}",
                                       type, first_fastest ? "True" : "False", shape),
                           body),
                     "a.npy");
  };
  EXPECT_THAT(read(">i2", false, "(2,)", std::string("\0\1\xff\xfe", 4)).numbers(),
              ElementsAre(1, -2));
  EXPECT_THAT(read("<u4", false, "(1,)", "\xff\xff\xff\xff").numbers(), ElementsAre(4294967295.0));
  EXPECT_THAT(read("|b1", false, "(2,)", std::string("\1\0", 2)).numbers(), ElementsAre(1, 0));
  const Examples turned = read("|u1", true, "(2, 3)", "\1\4\2\5\3\6");
  EXPECT_THAT(turned.numbers(), ElementsAre(1, 2, 3, 4, 5, 6));
  EXPECT_THAT(said<FileError>([&] { (void)read("<c16", false, "(1,)", std::string(16, '\0')); }),
              HasSubstr("whole or floating numbers"));
  EXPECT_THAT(said<FileError>([&] { (void)read("<f8", false, "(2,)", std::string(9, '\0')); }),
              HasSubstr("truncated"));
  EXPECT_THAT(said<FileError>([&] { (void)read("<f8", false, "(0, 3)", ""); }),
              HasSubstr("(0, 3)"));
  EXPECT_THAT(said<FileError>([] { (void)parse_npy("nothing of the kind", "a.npy"); }),
              HasSubstr("no NPY file"));
}

Raster picture_of(std::int64_t rows, std::int64_t columns, std::int64_t channels) {
  Raster picture{.rows = rows, .columns = columns, .channels = channels};
  for (std::int64_t at = 0; at < picture.shape().count(); ++at)
    picture.bytes.push_back(static_cast<std::uint8_t>(at * 7));
  return picture;
}

TEST(png_files, are_written_as_they_are_read) {
  for (const std::int64_t channels : {1, 3}) {
    const Raster picture = picture_of(3, 5, channels);
    const PngPicture back = parse_png(to_png(picture), "a.png");
    EXPECT_EQ(back.picture.shape(), picture.shape());
    EXPECT_EQ(back.picture.bytes, picture.bytes);
    EXPECT_FALSE(back.had_palette || back.had_16_bits || back.had_alpha);
  }
  EXPECT_THAT(said<ShapeError>([] { (void)to_png(picture_of(2, 2, 2)); }), HasSubstr("1 or 3"));
}

TEST(png_files, that_are_none_or_damaged_are_refused) {
  const std::string whole = to_png(picture_of(9, 9, 3));
  EXPECT_THAT(said<FileError>([] { (void)parse_png("a text\n", "a.png"); }),
              AllOf(HasSubstr("no PNG file, whatever it is called"), HasSubstr("a.png")));
  EXPECT_THAT(said<FileError>([&] { (void)parse_png(whole.substr(0, 50), "a.png"); }),
              HasSubstr("damaged"));
}

/// A number as PNG has it, in four bytes, the greatest first.
std::string whole(std::uint32_t number) {
  std::string bytes;
  for (const int shift : {24, 16, 8, 0})
    bytes += static_cast<char>(number >> static_cast<unsigned>(shift) & 0xffU);
  return bytes;
}

std::string chunk_of(const std::string& name, const std::string& content) {
  const std::string named = name + content;
  const uLong sum =
      crc32(0, reinterpret_cast<const Bytef*>(named.data()), static_cast<uInt>(named.size()));
  return whole(static_cast<std::uint32_t>(content.size())) + named +
         whole(static_cast<std::uint32_t>(sum));
}

/// A PNG file byte by byte, as the standard has it.
/// @param kind 0 grey, 2 in colour, 3 with a palette, 4 grey and see-through, 6 both
/// @param rows each with a 0 in front, unpacked
std::string png_of(std::uint32_t width, std::uint32_t height, int depth, int kind,
                   const std::string& rows, const std::string& more = "", int interlace = 0) {
  uLongf size = compressBound(rows.size());
  std::string packed(size, '\0');
  compress(reinterpret_cast<Bytef*>(packed.data()), &size,
           reinterpret_cast<const Bytef*>(rows.data()), rows.size());
  packed.resize(size);
  return "\x89PNG\r\n\x1a\n" +
         chunk_of("IHDR", whole(width) + whole(height) + idx({depth, kind, 0, 0, interlace})) +
         more + chunk_of("IDAT", packed) + chunk_of("IEND", "");
}

TEST(png_files, of_every_kind_become_bytes_and_it_is_told) {
  const PngPicture deep = parse_png(png_of(2, 1, 16, 0, idx({0, 0x80, 0, 0xff, 0xff})), "a.png");
  EXPECT_TRUE(deep.had_16_bits && !deep.had_palette && !deep.had_alpha);
  EXPECT_EQ(deep.picture.channels, 1);
  EXPECT_EQ(deep.picture.bytes[1], 255);
  EXPECT_EQ(deep.picture.bytes[0], 128);

  const std::string red_and_blue = chunk_of("PLTE", idx({250, 0, 0, 0, 0, 250}));
  const PngPicture palette = parse_png(png_of(2, 1, 8, 3, idx({0, 1, 0}), red_and_blue), "a.png");
  EXPECT_TRUE(palette.had_palette && !palette.had_16_bits && !palette.had_alpha);
  EXPECT_THAT(palette.picture.bytes, ElementsAre(0, 0, 250, 250, 0, 0));

  const PngPicture clear = parse_png(png_of(2, 1, 8, 4, idx({0, 200, 255, 200, 0})), "a.png");
  EXPECT_TRUE(clear.had_alpha && !clear.had_palette && !clear.had_16_bits);
  EXPECT_THAT(clear.picture.bytes, ElementsAre(200, 0));

  const Folder folder;
  write_bytes(folder.path() / "bowl" / "a.png", png_of(1, 1, 16, 0, idx({0, 1, 2})));
  write_bytes(folder.path() / "cup" / "b.png", png_of(1, 1, 8, 4, idx({0, 1, 2})));
  EXPECT_EQ(read_pictures({.places = {{.path = folder.path()}}}).told,
            "2 PNG files: 2 grey, 1 of 16 bits, reduced to 8, 1 see-through, laid on black");
}

/// The numbers of a picture of so many a pixel in the order in which an interlaced file has them
/// (PNG, 8.2, Adam7), each as one byte or as two alike; or row by row.
std::string rows_of(const std::vector<int>& numbers, int rows, int columns, int each, int depth,
                    bool interlaced) {
  struct Pass {
    int row, column, down, across;
  };
  const std::vector<Pass> passes =
      interlaced ? std::vector<Pass>{{0, 0, 8, 8}, {0, 4, 8, 8}, {4, 0, 8, 4}, {0, 2, 4, 4},
                                     {2, 0, 4, 2}, {0, 1, 2, 2}, {1, 0, 2, 1}}
                 : std::vector<Pass>{{0, 0, 1, 1}};
  std::string bytes;
  for (const Pass& pass : passes) {
    for (int row = pass.row; row < rows && pass.column < columns; row += pass.down) {
      bytes += '\0';
      for (int column = pass.column; column < columns; column += pass.across) {
        for (int number = 0; number < each; ++number) {
          const int value =
              numbers[static_cast<std::size_t>((row * columns + column) * each + number)];
          bytes += std::string(depth == 16 ? 2 : 1, static_cast<char>(value));
        }
      }
    }
  }
  return bytes;
}

TEST(png_files, give_the_bytes_that_a_viewer_shows_however_they_are_kept) {
  // What 8 bits say, 16 say as well, 257 times as large; in any order of rows.
  const std::vector<int> grey = {8,   12, 16, 100, 200, 0,  1,  2,  3,  4,  5,  6,  7,
                                 150, 20, 9,  10,  11,  13, 14, 15, 17, 18, 19, 255};
  for (const int depth : {8, 16}) {
    for (const bool interlaced : {false, true}) {
      SCOPED_TRACE(fmt::format("{} bits, interlaced: {}", depth, interlaced));
      const auto bytes_of = [&](int kind, const std::vector<int>& numbers, int each) {
        return parse_png(png_of(5, 5, depth, kind, rows_of(numbers, 5, 5, each, depth, interlaced),
                                "", interlaced ? 1 : 0),
                         "a.png")
            .picture.bytes;
      };
      EXPECT_EQ(bytes_of(0, grey, 1), std::vector<std::uint8_t>(grey.begin(), grey.end()));
      // Half of it seen on black is half as bright, as numbers go.
      std::vector<int> half;
      std::vector<std::uint8_t> halves;
      std::vector<int> colours;
      std::vector<std::uint8_t> seen;
      for (const int number : grey) {
        half.insert(half.end(), {number, 128});
        halves.push_back(static_cast<std::uint8_t>((number * 128 + 127) / 255));
        colours.insert(colours.end(), {number, 255 - number, 40, 51});
        for (const int part : {number, 255 - number, 40})
          seen.push_back(static_cast<std::uint8_t>((part * 51 + 127) / 255));
      }
      EXPECT_EQ(bytes_of(4, half, 2), halves);
      EXPECT_EQ(bytes_of(6, colours, 4), seen);
    }
  }
  // One colour that is said to be clear.
  EXPECT_THAT(parse_png(png_of(2, 1, 8, 0, idx({0, 16, 20}), chunk_of("tRNS", idx({0, 16}))), "a")
                  .picture.bytes,
              ElementsAre(0, 20));
}

TEST(png_files, that_say_they_are_larger_than_they_can_be_are_refused) {
  EXPECT_THAT(said<MemoryError>([] {
                (void)parse_png(png_of(900'000, 900'000, 8, 0, idx({0, 1})), "a.png");
              }),
              AllOf(HasSubstr("does not fit into memory"), HasSubstr("900000 × 900000 points"),
                    HasSubstr("a.png")));
  EXPECT_THAT(said<FileError>([] {
                (void)parse_png(png_of(9'000, 9'000, 8, 0, idx({0, 1})), "a.png");
              }),
              AllOf(HasSubstr("holds more than a file of its size can"),
                    HasSubstr("9000 × 9000 points, said to be in")));
  // One bit a point, all the same: as small as a picture can be.
  const std::string small = png_of(4096, 4096, 1, 0, std::string(4096 * 513, '\0'));
  EXPECT_LT(small.size(), 3000U);
  EXPECT_EQ(parse_png(small, "a.png").picture.bytes.size(), 4096U * 4096U);
}

/// A folder of two classes, whose pictures have these shapes.
void write_classes(const std::filesystem::path& folder, const std::vector<Raster>& pictures) {
  for (std::size_t at = 0; at < pictures.size(); ++at) {
    write_bytes(folder / (at % 2 == 0 ? "bowl" : "cup") / fmt::format("{}.png", at),
                to_png(pictures[at]));
  }
}

TEST(pictures, alone_are_those_of_a_folder_and_what_they_became_is_told_once) {
  const Folder folder;
  const std::string path = folder.path();
  write_classes(path, {picture_of(4, 4, 1), picture_of(6, 4, 1), picture_of(4, 4, 1)});
  const std::vector<std::string> paths = {path, path + "/bowl/0.png"};
  const PicturesAlone read = read_pictures_alone(paths, {.size = PictureSize{2, 2}});
  EXPECT_THAT(read.names, ElementsAre(path + "/bowl/0.png", path + "/bowl/2.png",
                                      path + "/cup/1.png", path + "/bowl/0.png"));
  EXPECT_THAT(read.fitted, ElementsAre(AllOf(HasSubstr("bowl/0.png and 2 more: [row 4"),
                                             HasSubstr("became [row 2 × column 2")),
                                       HasSubstr("cup/1.png: [row 6")));
  EXPECT_EQ(read.pictures.shape()[0], 4);

  write_pictures(demo_set("stamps", 12, 2), path + "/grid");
  const PicturesAlone grid = read_pictures_alone({{path + "/grid"}}, {});
  EXPECT_EQ(grid.pictures, demo_set("stamps", 12, 2).features);
  EXPECT_THAT(grid.names, IsEmpty());
  EXPECT_THAT(said<FileError>([&] {
                (void)read_pictures_alone({{path + "/grid", path + "/bowl"}}, {});
              }),
              HasSubstr("by itself"));

  std::filesystem::create_directory(path + "/empty");
  EXPECT_THAT(said<FileError>([&] { (void)read_pictures_alone({{path + "/empty"}}, {}); }),
              HasSubstr("PNG files, or pictures.idx"));
}

TEST(pictures, are_read_from_a_folder_for_each_class) {
  const Folder folder;
  write_classes(folder.path() / "pots",
                {picture_of(4, 4, 1), picture_of(4, 4, 1), picture_of(4, 4, 1)});
  const PicturesReading read = read_pictures({.places = {{.path = folder.path() / "pots"}}});
  EXPECT_EQ(read.data.name, "pots");
  EXPECT_THAT(read.data.class_names, ElementsAre("bowl", "cup"));
  EXPECT_THAT(read.data.classes.numbers(), ElementsAre(0, 0, 1));
  EXPECT_EQ(to_string(read.data.example()), "[row 4 × column 4 × channel 1]");
  EXPECT_EQ(read.told, "3 PNG files: 3 grey");
}

TEST(pictures, of_different_sizes_are_told_how_to_be_brought_to_one) {
  const Folder folder;
  write_classes(folder.path(), {picture_of(4, 4, 1), picture_of(6, 4, 1)});
  EXPECT_THAT(said<FileError>([&] { (void)read_pictures({.places = {{.path = folder.path()}}}); }),
              AllOf(HasSubstr("different sizes"), HasSubstr("--resize 4x4"), HasSubstr("1.png")));
  const PictureChanges changes{.size = PictureSize{2, 2}};
  EXPECT_EQ(read_pictures({.places = {{.path = folder.path()}}, .changes = changes}).data.rows(),
            2);
  const Folder colours;
  write_classes(colours.path(), {picture_of(4, 4, 1), picture_of(4, 4, 3)});
  EXPECT_THAT(said<FileError>([&] { (void)read_pictures({.places = {{.path = colours.path()}}}); }),
              HasSubstr("--grey"));
}

TEST(pictures, are_read_from_a_file_and_its_labels) {
  const Folder folder;
  const std::string pictures = folder.path() / "p.idx.gz";
  const std::string labels = folder.path() / "l.idx";
  const std::string words = folder.path() / "l.txt";
  write_bytes(pictures, gzipped(to_idx(Examples::of_bytes({3, 1, 2}, {1, 2, 3, 4, 5, 6}))));
  write_bytes(labels, to_idx(Examples::of_bytes({3}, {1, 0, 1})));
  write_bytes(words, "cup\nbowl\ncup\n");
  EXPECT_THAT(read_pictures({.places = {{.path = pictures, .labels = labels}}}).data.class_names,
              ElementsAre("0", "1"));
  const Dataset named = read_pictures({.places = {{.path = pictures, .labels = labels}},
                                       .class_names = {"bowl", "cup"}})
                            .data;
  EXPECT_EQ(named.class_name(1), "cup");
  EXPECT_EQ(read_pictures({.places = {{.path = pictures, .labels = words}}}).data.classes,
            named.classes);

  const auto refused = [&](const PictureSource& source) {
    return said<FileError>([&] { (void)read_pictures(source); });
  };
  EXPECT_THAT(refused({.places = {{.path = pictures}}}), HasSubstr("--labels"));
  EXPECT_THAT(refused({.places = {{.path = pictures, .labels = labels}}, .class_names = {"bowl"}}),
              AllOf(HasSubstr("outside the classes"), HasSubstr("label 0")));
  EXPECT_THAT(refused({.places = {{.path = labels, .labels = pictures}}}),
              HasSubstr("no pictures"));
  write_bytes(labels, to_idx(Examples::of_bytes({2}, {1, 0})));
  EXPECT_THAT(refused({.places = {{.path = pictures, .labels = labels}}}),
              AllOf(HasSubstr("not as many"), HasSubstr("3 labels"), HasSubstr("found:    2")));
}

/// A file of as many pictures of one point, which are all of this shade.
std::string write_shades(const std::filesystem::path& path, std::int64_t count,
                         std::uint8_t shade) {
  std::vector<std::uint8_t> bytes(static_cast<std::size_t>(count), shade);
  write_bytes(path, gzipped(to_idx(Examples::of_bytes({count, 1, 1}, bytes))));
  return path;
}

TEST(pictures, of_several_places_are_one_set_with_classes_matched_by_name) {
  const Folder folder;
  const std::string bowls = write_shades(folder.path() / "bowls.idx.gz", 2, 10);
  const std::string others = write_shades(folder.path() / "others.idx.gz", 3, 20);
  write_classes(folder.path() / "png", {picture_of(1, 1, 1), picture_of(1, 1, 1)});
  const PicturesReading read =
      read_pictures({.places = {{.path = bowls, .class_name = "bowl"},
                                {.path = folder.path() / "png"},
                                {.path = others, .class_name = "cup"},
                                {.path = folder.path() / "png" / "cup", .class_name = "jug"}}});
  EXPECT_THAT(read.data.class_names, ElementsAre("bowl", "cup", "jug"));
  EXPECT_THAT(read.data.classes.numbers(), ElementsAre(0, 0, 0, 1, 1, 1, 1, 2));
  EXPECT_THAT(read.data.features.numbers(), ElementsAre(10, 10, 0, 0, 20, 20, 20, 0));
  EXPECT_EQ(read.data.name, "bowls and 3 more");
  EXPECT_EQ(read.told, "3 PNG files: 3 grey");

  const auto refused = [](const PictureSource& source) {
    return said([&] { (void)read_pictures(source); });
  };
  EXPECT_THAT(refused({.places = {{.path = bowls, .class_name = "bowl"}}}),
              HasSubstr("a single class"));
  EXPECT_EQ(
      read_pictures({.places = {{.path = bowls, .class_name = "bowl"}}, .may_be_one_class = true})
          .data.rows(),
      2);
  EXPECT_THAT(
      refused({.places = {{.path = bowls, .class_name = "bawl"}}, .class_names = {"bowl", "cup"}}),
      AllOf(HasSubstr("none of the classes"), HasSubstr("did you mean bowl")));
  // A folder that is called by a number has the class of that number.
  EXPECT_THAT(read_pictures(
                  {.places = {{.path = bowls, .class_name = "1"}}, .class_names = {"bowl", "cup"}})
                  .data.classes.numbers(),
              ElementsAre(1, 1));
  write_classes(folder.path() / "wide", {picture_of(1, 2, 1), picture_of(1, 2, 1)});
  EXPECT_THAT(
      refused(
          {.places = {{.path = bowls, .class_name = "bowl"}, {.path = folder.path() / "wide"}}}),
      AllOf(HasSubstr("different sizes"), HasSubstr("--resize 1x1"), HasSubstr("bowls.idx.gz")));
  EXPECT_THAT(refused({.places = {{.path = folder.path(), .class_name = "bowl"}}}),
              HasSubstr("no pictures for the class 'bowl'"));
}

TEST(pictures, that_are_not_drawn_are_not_read) {
  const Folder folder;
  write_classes(folder.path() / "png",
                {picture_of(2, 2, 1), picture_of(2, 2, 1), picture_of(2, 2, 1)});
  write_bytes(folder.path() / "png" / "cup" / "9.png", "this is no picture");
  const std::string more = write_shades(folder.path() / "more.idx", 2, 9);
  std::int64_t asked = 0;
  const PictureSource source{
      .places = {{.path = folder.path() / "png"}, {.path = more, .class_name = "jug"}},
      .changes = {.size = PictureSize{1, 1}},
      .drawn = [&](std::int64_t count) -> std::optional<std::vector<std::int64_t>> {
        asked = count;
        return {{1, 4}};
      }};
  const PicturesReading read = read_pictures(source);
  EXPECT_EQ(asked, 6);
  EXPECT_THAT(read.data.classes.numbers(), ElementsAre(0, 2));
  EXPECT_THAT(read.data.class_names, ElementsAre("bowl", "cup", "jug"));
  EXPECT_EQ(read.data.features.at_offset(1), 9.0);
  EXPECT_EQ(read.told, "1 PNG file: 1 grey");
}

TEST(pictures, of_more_files_than_memory_should_hold_are_read_again_when_they_are_asked_for) {
  const Folder folder;
  write_classes(folder.path(), {picture_of(4, 4, 3), picture_of(6, 4, 3), picture_of(4, 4, 3)});
  PictureSource source{.places = {{.path = folder.path()}},
                       .changes = {.grey = true, .size = PictureSize{3, 3}}};
  const Dataset stored = read_pictures(source).data;
  source.most_in_memory = 20;
  const Dataset made = read_pictures(source).data;
  ASSERT_NE(made.features.source(), nullptr);
  EXPECT_EQ(made.features, stored.features);
  EXPECT_NE(fingerprint_of_row(made, 0), fingerprint_of_row(made, 2));
  write_bytes(folder.path() / "bowl" / "2.png", to_png(picture_of(9, 4, 1)));
  EXPECT_THAT(said<FileError>([&] { (void)made.features.all(); }),
              AllOf(HasSubstr("changed while it was in use"), HasSubstr("2.png")));
}

TEST(pictures, of_an_empty_folder_or_of_a_text_called_png_are_refused) {
  const Folder folder;
  EXPECT_THAT(said<FileError>([&] { (void)read_pictures({.places = {{.path = folder.path()}}}); }),
              HasSubstr("no pictures in this folder"));
  write_bytes(folder.path() / "bowl" / "a.png", to_png(picture_of(2, 2, 1)));
  write_bytes(folder.path() / "cup" / "a.png", "a text");
  EXPECT_THAT(said<FileError>([&] { (void)read_pictures({.places = {{.path = folder.path()}}}); }),
              HasSubstr("whatever it is called"));
  write_bytes(folder.path() / "cup" / "a.png", to_png(picture_of(2, 2, 1)));
  std::filesystem::remove_all(folder.path() / "bowl");
  EXPECT_THAT(said<FileError>([&] { (void)read_pictures({.places = {{.path = folder.path()}}}); }),
              HasSubstr("a single class"));
  const std::string one = folder.path() / "cup" / "a.png";
  EXPECT_THAT(said<FileError>([&] { (void)read_pictures({.places = {{.path = one}}}); }),
              HasSubstr("the folder of its class"));
}

TEST(pictures, are_written_as_they_are_read) {
  const Folder folder;
  const Dataset stamps = demo_set("stamps", 12, 2);
  write_pictures(stamps, folder.path() / "stamps");
  const Dataset back = read_pictures({.places = {{.path = folder.path() / "stamps"}}}).data;
  EXPECT_EQ(back.features, stamps.features);
  EXPECT_EQ(back.classes, stamps.classes);
  EXPECT_EQ(back.class_names, stamps.class_names);
  EXPECT_THAT(said<ShapeError>([&] { write_pictures(demo_set("kiln"), folder.path()); }),
              HasSubstr("cannot be written as pictures"));
}

TEST(pictures, in_a_table_are_its_rows) {
  const Dataset table = parse_csv("a,b,c,d,kind\n1,2,3,255,x\n4,5,6,7,y\n0,0,0,0,x\n1,1,1,1,y\n",
                                  "pixels", {.targets = {"kind"}});
  const Dataset pictures = as_pictures(table, parse_picture_shape("2x2"));
  EXPECT_TRUE(pictures.features.are_bytes());
  EXPECT_EQ(pictures.features.at({0, 1, 1, 0}), 255.0);
  EXPECT_THAT(said<ShapeError>([&] { (void)as_pictures(table, parse_picture_shape("2x3")); }),
              HasSubstr("6 columns"));
  for (const char* text : {"", "3", "3x", "3x3x3x3", "0x2", "axb"})
    EXPECT_THAT(said<SettingError>([&] { (void)parse_picture_shape(text); }), HasSubstr("28x28x1"));
}

/// Two pictures of each class.
Dataset pictures_of(const std::vector<std::string>& classes) {
  const auto count = std::ssize(classes);
  std::vector<std::uint8_t> bytes;
  std::vector<double> labels;
  for (std::int64_t at = 0; at < 2 * count; ++at) {
    bytes.insert(bytes.end(), {static_cast<std::uint8_t>(at % 251), 1, 2, 3});
    labels.push_back(static_cast<double>(at % count));
  }
  return {
      .name = "pots",
      .features = Examples::of_bytes(
          Shape{2 * count, 2, 2, 1}.with({Role::example, Role::row, Role::column, Role::channel}),
          std::move(bytes)),
      .classes = tensor(Shape{2 * count}, labels),
      .class_names = classes};
}

/// What a class is called, picture by picture, in any order.
std::multiset<std::string> classes_of(const Dataset& data) {
  std::multiset<std::string> names;
  for (std::int64_t row = 0; row < data.rows(); ++row) {
    names.insert(fmt::format("{} {}", data.features.at({row, 0, 0, 0}),
                             data.class_name(static_cast<std::int64_t>(data.classes.at({row})))));
  }
  return names;
}

const std::vector<std::string> hostile_classes = {
    "../../x",     "..",         ".",         "/abs", "a/b", "line\nbreak",
    " blank ",     "\"quoted\"", "say \"x\"", "=1+1", "%2F", "$(touch x)",
    "back\\slash", "",           ".hidden",   "größe"};

TEST(pictures, of_classes_with_any_name_stay_in_their_folder_and_come_back) {
  const Folder folder;
  const std::filesystem::path inner = folder.path() / "a" / "b" / "c";
  const Dataset data = pictures_of(hostile_classes);
  write_png_folders(data, inner / "png");
  write_pictures(data, inner / "idx");
  EXPECT_EQ(classes_of(read_pictures({.places = {{.path = inner / "png"}}}).data),
            classes_of(data));
  const Dataset again = read_pictures({.places = {{.path = inner / "idx"}}}).data;
  EXPECT_EQ(classes_of(again), classes_of(data));
  EXPECT_EQ(again.class_names, hostile_classes);
  // Nothing was written anywhere else.
  for (const auto& entry : std::filesystem::recursive_directory_iterator(folder.path())) {
    const std::string path = entry.path().string();
    const bool is_on_the_way = inner.string().starts_with(path);
    EXPECT_TRUE(is_on_the_way || path.starts_with(inner.string())) << path;
  }
  EXPECT_EQ(std::distance(std::filesystem::directory_iterator(inner / "png"), {}),
            std::ssize(hostile_classes));
}

TEST(pictures, of_more_classes_than_a_byte_can_tell_apart_keep_them) {
  std::vector<std::string> classes;
  for (int at = 0; at < 300; ++at)
    classes.push_back(fmt::format("class{}", at));
  const Folder folder;
  const Dataset data = pictures_of(classes);
  write_pictures(data, folder.path());
  EXPECT_EQ(classes_of(read_pictures({.places = {{.path = folder.path()}}}).data),
            classes_of(data));
}

TEST(pictures, in_folders_with_pipes_and_devices_are_read_without_them) {
  const Folder folder;
  write_classes(folder.path(), {{.rows = 2, .columns = 2, .channels = 1, .bytes = {1, 2, 3, 4}},
                                {.rows = 2, .columns = 2, .channels = 1, .bytes = {5, 6, 7, 8}}});
  for (const char* const name : {"pipe", "pipe.png"})
    ASSERT_EQ(mkfifo((folder.path() / "bowl" / name).c_str(), 0600), 0);
  std::filesystem::create_symlink("/dev/zero", folder.path() / "cup" / "zero.png");
  EXPECT_EQ(read_pictures({.places = {{.path = folder.path()}}}).data.rows(), 2);
  ASSERT_EQ(mkfifo((folder.path() / "pictures.idx").c_str(), 0600), 0);
  EXPECT_FALSE(holds_pictures(folder.path() / "pictures.idx"));
}

TEST(npy_files, are_read_gzipped_and_known_for_what_they_are) {
  const Folder folder;
  const Examples grid = Examples::of_bytes({2, 2, 2}, {1, 2, 3, 4, 5, 6, 7, 8});
  write_bytes(folder.path() / "p.npy.gz", gzipped(to_npy(grid)));
  write_bytes(folder.path() / "l.npy.gz", gzipped(to_npy(Examples::of_bytes({2}, {0, 1}))));
  EXPECT_TRUE(holds_pictures(folder.path() / "p.npy.gz"));
  const PicturesReading read = read_pictures(
      {.places = {{.path = folder.path() / "p.npy.gz", .labels = folder.path() / "l.npy.gz"}}});
  EXPECT_EQ(read.data.features.at({1, 0, 1, 0}), 6.0);
  EXPECT_THAT(read.data.classes.numbers(), ElementsAre(0, 1));
}

TEST(packed_files, that_would_fill_the_memory_are_refused) {
  // A hundred million blanks in a hundred thousand bytes.
  const std::string blank(100'000'000, '\0');
  const std::string header = idx({0, 0, 8, 3}) + whole(1) + whole(10'000) + whole(10'000);
  EXPECT_THAT(said<FileError>([&] { (void)parse_idx(gzipped(header + blank), "a.idx.gz"); }),
              HasSubstr("holds more than a file of its size can"));
  EXPECT_THAT(said<FileError>([&] { (void)parse_npy(gzipped(blank), "a.npy.gz"); }),
              HasSubstr("unpacks to too much data for its size"));
  // What is blank is read where it is no more than anything has room for.
  const std::string small = idx({0, 0, 8, 3}) + whole(1) + whole(1000) + whole(1000);
  EXPECT_EQ(parse_idx(gzipped(small + std::string(1'000'000, '\0')), "a.idx.gz").shape().count(),
            1'000'000);
}

}  // namespace
}  // namespace lattice
