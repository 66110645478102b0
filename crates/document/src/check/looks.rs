//! Problems of looks and of the palette.

use super::Found;
use splimo_base::nearest::meant;
use splimo_light::effect::{self, EffectSpec, Params};
use splimo_light::modulate;
use splimo_light::still;
use splimo_show::Severity;
use splimo_show::palette;
use splimo_show::{Area, Layer, MOST_REGIONS, Place, Show};

/// The most layers that a look may have.
pub(super) const MOST_LAYERS: usize = 64;

impl Found {
    pub(super) fn palette(&mut self, show: &Show) {
        for (i, swatch) in show.palette.iter().enumerate() {
            let place = || Place::root().key("palette").index(i).key("colours");
            let subject = format!("palette entry {}", swatch.name);
            // It may not refer to others, or two could refer to each other.
            if let Err(why) = palette::stops(swatch.colours.iter().map(String::as_str), &[]) {
                self.add(Severity::Broken, place(), subject, "has a colour that cannot be read", why);
            } else if swatch.colours.is_empty() {
                self.add(Severity::Broken, place(), subject, "has no colour", "give it one, such as [\"#ff8040\"]");
            }
        }
    }

    pub(super) fn looks(&mut self, show: &Show) {
        for (i, look) in show.looks.iter().enumerate() {
            let place = || Place::root().key("looks").index(i).key("layers");
            if look.layers.len() > MOST_LAYERS {
                let message = format!("it has {} layers", look.layers.len());
                let mend = format!("keep it to {MOST_LAYERS}");
                self.add(Severity::Broken, place(), format!("look {}", look.name), message, mend);
            }
            for (j, layer) in look.layers.iter().enumerate() {
                let subject = format!("look {}, layer {} ({})", look.name, j + 1, layer.effect);
                self.layer(&place().index(j), &subject, layer);
                match effect::find(&layer.effect) {
                    None => self.no_effect(&place().index(j), &subject, &layer.effect),
                    Some(spec) => self.params(&place().index(j), &subject, layer, spec, show),
                }
            }
        }
    }

    fn area(&mut self, place: &Place, subject: &str, area: Area) {
        for (name, value, from) in [
            ("x", area.x, -10_000.0),
            ("y", area.y, -10_000.0),
            ("width", area.width, 0.1),
            ("height", area.height, 0.1),
        ] {
            self.range(place.clone().key("area").key(name), subject, value, from, 10_000.0);
        }
    }

    pub(super) fn regions(&mut self, show: &Show) {
        if show.regions.len() > MOST_REGIONS {
            let message = format!("it has {} regions", show.regions.len());
            let mend = format!("keep it to {MOST_REGIONS}");
            self.add(Severity::Broken, Place::root().key("regions"), "the show", message, mend);
        }
        for (index, region) in show.regions.iter().enumerate() {
            let place = Place::root().key("regions").index(index);
            self.area(&place, &format!("region {}", region.name), region.area);
        }
    }

    fn layer(&mut self, place: &Place, subject: &str, layer: &Layer) {
        self.range(place.clone().key("opacity"), subject, layer.opacity, 0.0, 1.0);
        self.range(place.clone().key("later"), subject, layer.later, -10_000.0, 10_000.0);
        self.range(place.clone().key("phase"), subject, layer.phase as f32, -1e9, 1e9);
        self.area(place, subject, layer.area);
        for (fixture, lights) in &layer.lights {
            if let Err(why) = still::parse(lights) {
                let message = format!("the colours held for {fixture} cannot be read");
                self.add(Severity::Broken, place.clone().key("lights").key(fixture), subject, message, why.to_string());
            }
        }
    }

    fn no_effect(&mut self, place: &Place, subject: &str, name: &str) {
        let known: Vec<_> = effect::EFFECTS.iter().map(|e| e.name).collect();
        let near = meant(name, known.iter().copied());
        let message = format!("there is no effect \"{name}\"{near}");
        let mend = format!("use one of {}", known.join(", "));
        self.add(Severity::Broken, place.clone().key("effect"), subject, message, mend);
    }

    fn params(&mut self, place: &Place, subject: &str, layer: &Layer, spec: &EffectSpec, show: &Show) {
        if let Err(bad) = Params::compile(spec, &layer.params, &show.palette) {
            let place = place.clone().key("params").key(&bad.name);
            self.add(Severity::Broken, place, subject, bad.message, bad.mend);
        }
        for (index, modulator) in layer.modulators.iter().enumerate() {
            if let Err(bad) = modulate::check(modulator, spec) {
                let place = place.clone().key("modulators").index(index).key(bad.field);
                let subject = format!("{subject}, modulator {} of {}", index + 1, modulator.param);
                self.add(Severity::Broken, place, subject, bad.message, bad.mend);
            }
        }
    }
}
