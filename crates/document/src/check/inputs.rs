//! Problems of inputs and bindings: addresses that cannot be, commands that are none, bindings that never come or that fight.

use std::collections::HashMap;

use super::Found;
use crate::input::{beyond, bindable};
use splimo_show::Severity;
use splimo_show::{
    Answer, Binding, Input, InputKind, MOST_PROGRAMS, MOST_VALUES_OUT, OutTarget, Place, Remote, SLOTS, Show,
};
use splimo_show::{BUILT_IN, event::EventAddress};

/// True if an address of OSC is one of this machine alone.
fn is_own(address: &str) -> bool {
    let plain = address.trim().strip_prefix("tcp:").unwrap_or(address.trim());
    plain.parse::<std::net::SocketAddr>().is_ok_and(|address| address.ip().is_loopback())
}

impl Found {
    pub(super) fn inputs(&mut self, show: &Show) {
        for (index, input) in show.inputs.iter().enumerate() {
            let place = Place::root().key("inputs").index(index);
            self.input(&place, input);
        }
        let mut taken: HashMap<(&str, &EventAddress, &str), usize> = HashMap::new();
        for (index, binding) in show.bindings.iter().enumerate() {
            let place = Place::root().key("bindings").index(index);
            let subject = format!("binding {} ({} {})", index + 1, binding.source, binding.event);
            self.binding(&place, &subject, binding);
            self.comes(&place, &subject, binding, show);
            if follows(binding) {
                let key = (binding.source.as_str(), &binding.event, binding.layer.as_str());
                if let Some(first) = taken.insert(key, index)
                    && same_target(&show.bindings[first], binding)
                {
                    let message = format!("binding {} moves the same by the same", first + 1);
                    self.add(Severity::Warning, place, subject, message, "take one of them out");
                }
            }
        }
        self.remotes(show);
        self.values_out(show);
        self.programs(show);
        self.controls(show);
    }

    fn controls(&mut self, show: &Show) {
        for (index, control) in show.controls.iter().enumerate() {
            let place = Place::root().key("controls").index(index).key("number");
            let number = f32::from(control.number);
            self.range(place.clone(), &format!("control {}", control.name), number, 1.0, splimo_show::CONTROLS as f32);
            if show.controls[..index].iter().any(|other| other.number == control.number) {
                let subject = format!("control {}", control.number);
                self.add(Severity::Error, place, subject, "has two names", "take one of them out");
            }
        }
    }

    fn programs(&mut self, show: &Show) {
        if show.programs.len() > MOST_PROGRAMS {
            let mend = format!("keep it to {MOST_PROGRAMS}");
            self.add(Severity::Broken, Place::root().key("programs"), "programs", "there are too many", mend);
        }
        for (index, program) in show.programs.iter().enumerate() {
            if let Some(fault) = program.fault() {
                let mend = "write command = [\"name\", \"argument\"] or sound = \"file.wav\"";
                let place = Place::root().key("programs").index(index);
                self.add(Severity::Broken, place, format!("program {}", program.name), fault, mend);
            }
        }
    }

    fn values_out(&mut self, show: &Show) {
        if show.values_out.len() > MOST_VALUES_OUT {
            let mend = format!("keep it to {MOST_VALUES_OUT}");
            self.add(Severity::Broken, Place::root().key("values_out"), "values out", "there are too many", mend);
        }
        for (index, out) in show.values_out.iter().enumerate() {
            let place = Place::root().key("values_out").index(index);
            let subject = format!("value out {} ({})", index + 1, out.what);
            if let Some(fault) = out.fault() {
                self.add(Severity::Broken, place.clone(), &subject, fault, "write another place or order");
            }
            if let OutTarget::Dmx(address) = &out.to
                && !show
                    .routes
                    .iter()
                    .any(|route| route.enabled && route.universes.numbers().contains(&address.universe))
            {
                let message = format!("universe {} has no route", address.universe);
                self.add(Severity::Warning, place, subject, message, "add a route for it: F3, then a");
            }
        }
    }

    fn input(&mut self, place: &Place, input: &Input) {
        let subject = format!("input {}", input.name);
        if let Err(why) = address_fault(input.kind, &input.address) {
            let mend = format!("write {}", input.kind.address_form());
            self.add(Severity::Broken, place.clone().key("address"), &subject, why, mend);
        }
        if input.on && input.kind == InputKind::Osc && input.from.is_empty() && !is_own(&input.address) {
            let mend = "name who may, such as from = [\"10.20.0.11\"] or [\"10.20.0.0/24\"]";
            let message = "anybody on the network can fire its pads and set its tempo";
            self.add(Severity::Warning, place.clone().key("from"), &subject, message, mend);
        }
        self.range(place.clone().key("priority"), &subject, f32::from(input.priority), 0.0, 200.0);
        if input.silent_after != 0.0 {
            self.range(place.clone().key("silent_after"), &subject, input.silent_after, 0.5, 3600.0);
        }
        for text in &input.when_silent {
            if let Err(why) = bindable(text) {
                let mend = "splimo do --help lists what there is";
                self.add(Severity::Broken, place.clone().key("when_silent"), &subject, why, mend);
            }
        }
        if let Some(Remote { layout, first }) = input.remote {
            let last = SLOTS + 1 - layout.channels();
            self.range(place.clone().key("remote").key("first"), &subject, f32::from(first), 1.0, f32::from(last));
            if !matches!(input.kind, InputKind::ArtNet | InputKind::Sacn) {
                let mend = "give it the kind art-net or sacn, or take its layout out";
                self.add(Severity::Broken, place.clone().key("remote"), &subject, "only DMX has a layout", mend);
            }
        }
    }

    fn binding(&mut self, place: &Place, subject: &str, binding: &Binding) {
        for text in binding.commands() {
            if let Err(why) = bindable(text) {
                let mend = "splimo do --help lists what there is; {} is where the value stands";
                self.add(Severity::Broken, place.clone(), subject, why, mend);
            }
        }
        if binding.commands().next().is_none() && binding.shifts.is_empty() {
            let mend = "write do = [\"go\"], or the like";
            self.add(Severity::Broken, place.clone(), subject, "it asks for nothing", mend);
        }
        if !binding.range.iter().all(|end| end.is_finite() && end.abs() <= 100_000.0) {
            let mend = "write two numbers, such as [0.0, 100.0]";
            self.add(Severity::Broken, place.clone().key("range"), subject, "its range cannot be", mend);
        }
        for why in binding.commands().filter_map(|text| beyond(text, binding.range)) {
            let mend = "give the binding a range within it; values outside do nothing";
            self.add(Severity::Warning, place.clone().key("range"), subject, why, mend);
        }
        let rises = binding.bands.windows(2).all(|pair| pair[0].from < pair[1].from);
        if !rises {
            let mend = "put them in the order of their lowest values, each with another";
            self.add(Severity::Broken, place.clone().key("bands"), subject, "its bands do not rise", mend);
        }
    }

    /// A binding that can never answer.
    fn comes(&mut self, place: &Place, subject: &str, binding: &Binding, show: &Show) {
        let input = show.inputs.iter().find(|input| input.name == binding.source);
        let message = match (input, &binding.event) {
            (Some(input), event) if !event.is_of_any_input() && !gives(input.kind, event) => {
                format!("no {} gives {event}", input.kind.name())
            }
            (None, event) if BUILT_IN.contains(&binding.source.as_str()) && !gives_built_in(&binding.source, event) => {
                format!("{} never gives {event}", binding.source)
            }
            _ => return,
        };
        self.add(
            Severity::Warning,
            place.clone(),
            subject,
            message,
            "it answers to nothing so; switch it on, or bind another",
        );
    }

    /// Layouts that lie over one another, or over bindings.
    fn remotes(&mut self, show: &Show) {
        for (index, input) in show.inputs.iter().enumerate() {
            let Some(remote) = input.remote else { continue };
            let own = remote.first..remote.first + remote.layout.channels();
            let within = |binding: &&Binding| matches!(binding.event, EventAddress::Slot(slot, _) if binding.source == input.name && own.contains(&slot));
            if let Some(binding) = show.bindings.iter().find(within) {
                let place = Place::root().key("inputs").index(index).key("remote");
                let message = format!("{} is bound to something else as well", binding.event);
                let mend = "take the binding out, or have the layout begin elsewhere";
                self.add(Severity::Warning, place, format!("input {}", input.name), message, mend);
            }
        }
    }
}

fn follows(binding: &Binding) -> bool {
    matches!(binding.answer, Answer::Value | Answer::Relative) && binding.when.is_none()
}

fn same_target(a: &Binding, b: &Binding) -> bool {
    a.does.iter().any(|text| b.does.contains(text))
}

/// True if inputs of a kind can give an event.
fn gives(kind: InputKind, event: &EventAddress) -> bool {
    match event {
        EventAddress::Note(..)
        | EventAddress::Control(..)
        | EventAddress::Program(_)
        | EventAddress::Bend(_)
        | EventAddress::Pressure(..)
        | EventAddress::Start
        | EventAddress::Stop
        | EventAddress::Continue => kind == InputKind::Midi,
        EventAddress::Slot(..) => matches!(kind, InputKind::ArtNet | InputKind::Sacn),
        EventAddress::Trigger(..) => kind == InputKind::ArtNet,
        EventAddress::Osc(..) => kind == InputKind::Osc,
        EventAddress::Key(_)
        | EventAddress::Beat
        | EventAddress::Bar
        | EventAddress::Phrase
        | EventAddress::Onset
        | EventAddress::Hit(_)
        | EventAddress::Part(_) => false,
        EventAddress::At(_) => kind == InputKind::Ltc,
        EventAddress::Silent | EventAddress::Back => true,
    }
}

fn gives_built_in(source: &str, event: &EventAddress) -> bool {
    match event {
        EventAddress::Key(_) => source == "keys",
        EventAddress::At(_) => source == "time",
        EventAddress::Beat
        | EventAddress::Bar
        | EventAddress::Phrase
        | EventAddress::Onset
        | EventAddress::Hit(_)
        | EventAddress::Part(_) => source == "music",
        EventAddress::Note(..)
        | EventAddress::Control(..)
        | EventAddress::Program(_)
        | EventAddress::Bend(_)
        | EventAddress::Pressure(..)
        | EventAddress::Start
        | EventAddress::Stop
        | EventAddress::Continue
        | EventAddress::Slot(..)
        | EventAddress::Trigger(..)
        | EventAddress::Osc(..)
        | EventAddress::Silent
        | EventAddress::Back => false,
    }
}

/// The fault of the address of an input.
fn address_fault(kind: InputKind, address: &str) -> Result<(), String> {
    let odd = || Err(format!("\"{address}\" is no address of {}", kind.name()));
    match kind {
        InputKind::Midi | InputKind::Ltc | InputKind::Lines if address.trim().is_empty() => odd(),
        InputKind::Midi | InputKind::Ltc | InputKind::Lines => Ok(()),
        InputKind::Osc => {
            let plain = address.strip_prefix("tcp:").unwrap_or(address);
            plain.parse::<std::net::SocketAddr>().map(|_| ()).or_else(|_| odd())
        }
        InputKind::ArtNet => crate::input::port_address(address).map(|_| ()).map_or_else(odd, Ok),
        InputKind::Sacn => match address.trim().parse::<u16>() {
            Ok(1..=63_999) => Ok(()),
            Ok(_) | Err(_) => odd(),
        },
    }
}

#[cfg(test)]
mod tests {
    use super::*;
    use crate::check::check;
    use splimo_show::AddressBlock;

    #[test]
    fn an_input_that_anybody_may_send_to_is_warned_of() {
        let warned = |address: &str, from: &str| {
            let mut show = Show::empty("Night");
            let from = AddressBlock::list(from).expect("a list");
            show.inputs = vec![Input { on: true, from, ..Input::new("tablet", InputKind::Osc, address) }];
            check(&show).iter().any(|problem| problem.message.contains("anybody on the network"))
        };
        assert!(warned("0.0.0.0:9000", "") && warned("tcp:10.20.0.2:9000", ""));
        assert!(
            !warned("127.0.0.1:9000", "") && !warned("tcp:127.0.0.1:9000", "") && !warned("0.0.0.0:9000", "10.20.0.7")
        );
    }
}
