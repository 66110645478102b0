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
