//! The models of controllers: those that ship, those beside a show, and those of the person (`controllers/*.toml` in the
//! configuration).

use std::path::{Path, PathBuf};

use splimo_document::input::Controller;

/// The models that ship, by the names of their files.
pub const SHIPPED: [(&str, &str); 2] = [
    ("quay-16", include_str!("../../../../controllers/quay-16.toml")),
    ("mooring-9", include_str!("../../../../controllers/mooring-9.toml")),
];

/// The model of a name: the file `NAME.toml` beside the show, of the person, or of those that ship.
///
/// # Errors
/// If there is none, or the file is wrong, and where.
pub fn find(name: &str, beside: &Path) -> Result<Controller, String> {
    if name.contains(['/', '\\']) {
        return Err(format!("\"{name}\" is no name of a controller model; write it without a folder"));
    }
    let file = format!("{name}.toml");
    let folders = [Some(beside.join("controllers")), configuration().map(|folder| folder.join("controllers"))];
    for path in folders.into_iter().flatten().map(|folder| folder.join(&file)) {
        if let Ok(text) = std::fs::read_to_string(&path) {
            return Controller::read(&text).map_err(|why| format!("{}: {why}", path.display()));
        }
    }
    match SHIPPED.iter().find(|(known, _)| *known == name) {
        Some((_, text)) => Controller::read(text),
        None => {
            let known: Vec<&str> = SHIPPED.iter().map(|(known, _)| *known).collect();
            Err(format!(
                "there is no controller model \"{name}\"; there is {}, or put {file} beside the show",
                known.join(", ")
            ))
        }
    }
}

fn configuration() -> Option<PathBuf> {
    let home = || Some(PathBuf::from(std::env::var_os("HOME")?).join(".config"));
    std::env::var_os("XDG_CONFIG_HOME").map(PathBuf::from).or_else(home).map(|folder| folder.join("splimo"))
}

#[cfg(test)]
mod tests {
    use super::*;

    #[test]
    fn the_models_that_ship_are_read_and_others_are_found_beside_the_show() {
        let folder = tempfile::tempdir().expect("a folder");
        for (name, _) in SHIPPED {
            let model = find(name, folder.path()).expect("a model");
            assert!(!model.controls.is_empty() && !model.bindings.is_empty());
            let own = |binding: &splimo_show::Binding| model.control(&binding.event).is_some();
            assert!(model.bindings.iter().all(own), "{name}");
        }
        std::fs::create_dir(folder.path().join("controllers")).expect("a folder");
        std::fs::write(folder.path().join("controllers/own.toml"), "name = \"Own\"").expect("written");
        assert_eq!(find("own", folder.path()).map(|model| model.name).as_deref(), Ok("Own"));
        assert!(find("nobody", folder.path()).expect_err("none").contains("quay-16"));
        assert!(find("../own", folder.path()).is_err());
    }
}
