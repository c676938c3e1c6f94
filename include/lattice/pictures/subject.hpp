#pragma once

namespace lattice {

/// Makes the layers, preparation and demo sets for pictures known to blueprints and lessons. A
/// second call does nothing. In blueprints they are
/// - `conv CHANNELS of ROWSxCOLUMNS`, then optionally `stride N`, `padding N` or `keeping size`,
///   `from 0+1 1+2 …` (which channels feed each) or `from N at random [seed N]`, `without bias`,
///   `start HOW` and `bias start HOW`;
/// - `maximum` and `average`, each with `N` or `ROWSxCOLUMNS` (optionally with stride, padding or
///   keeping size), or with `all` for the whole picture;
/// - `contrast SIZE`, then optionally `subtractive` or `divisive`, and `epsilon NUMBER`.
/// @returns true
bool use_pictures();

}  // namespace lattice
