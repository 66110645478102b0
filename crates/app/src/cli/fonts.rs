//! Fonts of this machine, for letters on drawings that the program has no font for.

use std::collections::BTreeSet;

use fontdb::{Database, Style, Weight};
use splimo_draw::{Fonts, Page, foreign_letters};

/// Fonts for all letters on some pages, as far as this machine has them; those that no font has are told of on standard error.
pub(super) fn fonts_for(pages: &[Page]) -> Fonts {
    let mut fonts = Fonts::default();
    let mut missing = foreign_letters(pages);
    if missing.is_empty() {
        return fonts;
    }
    let mut known = Database::new();
    known.load_system_fonts();
    let faces = known.faces().filter(|face| face.style == Style::Normal && face.weight == Weight::NORMAL);
    let mut faces: Vec<_> = faces.map(|face| (face.post_script_name.clone(), face.id, face.index)).collect();
    // The same fonts are taken each time, in whatever order the folders were read.
    faces.sort();
    for (_, id, index) in faces {
        let has = |data: &[u8], _: u32| {
            let Ok(face) = ab_glyph::FontRef::try_from_slice_and_index(data, index) else { return BTreeSet::new() };
            missing.iter().copied().filter(|letter| ab_glyph::Font::glyph_id(&face, *letter).0 != 0).collect()
        };
        let found: BTreeSet<char> = known.with_face_data(id, has).unwrap_or_default();
        let bytes = (!found.is_empty()).then(|| known.with_face_data(id, |data, _| data.to_vec())).flatten();
        if bytes.is_some_and(|bytes| fonts.add(bytes, index)) {
            missing.retain(|letter| !found.contains(letter));
        }
        if missing.is_empty() {
            return fonts;
        }
    }
    let letters: String = missing.iter().collect();
    say_aside!(
        "splimo: no font of this machine has {letters}; install one that does, such as fonts-noto-cjk for Chinese, Japanese and Korean"
    );
    fonts
}

/// The author of drawings: the user's full name, else the name of the account.
pub(super) fn author() -> String {
    let user = nix::unistd::User::from_uid(nix::unistd::getuid()).ok().flatten();
    let Some(user) = user else { return String::new() };
    let full = user.gecos.to_string_lossy().split(',').next().unwrap_or_default().trim().to_owned();
    if full.is_empty() { user.name } else { full }
}
