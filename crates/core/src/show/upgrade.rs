//! Upgrades of a show: words of earlier programs, taken for those of today.

use super::{Param, Show};

impl Show {
    /// Puts what earlier programs wrote into today's words. A text stays as it is until what it says is changed.
    pub(super) fn upgrade(&mut self) {
        for layer in self.looks.iter_mut().flat_map(|look| &mut look.layers).filter(|layer| layer.effect == "rainbow") {
            let Some(Param::Text(form)) = layer.params.remove("form") else { continue };
            let shape = match form.as_str() {
                "rings" => "circle".to_owned(),
                "around" => "ring around".to_owned(),
                _ => form,
            };
            layer.params.entry("shape".to_owned()).or_insert(Param::Text(shape));
        }
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::show::{file::read, write_over};

    #[test]
    fn the_forms_of_a_rainbow_are_its_shapes() {
        let text = "version = 1\nname = \"Quay\"\n[[looks]]\nname = \"Reef\"\n[[looks.layers]]\neffect = \"rainbow\"\nparams = { form = \"rings\" }\n";
        let show = read(text).expect("it is a show").show;
        assert_eq!(show.looks[0].layers[0].params["shape"], Param::Text("circle".into()));
        assert!(read(&text.replace("rings", "knots")).is_err());
        let again = write_over(text, &show).expect("it is written");
        assert!(again.contains("form = \"rings\""), "what nobody changed stays: {again}");
    }
}
