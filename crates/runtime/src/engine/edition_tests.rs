//! A running session after any series of edits is as a fresh start from the same show: its rig, its streams, what the network believes,
//! its bindings, and its light to the bit.

use std::cell::RefCell;
use std::net::Ipv4Addr;
use std::path::Path;
use std::sync::Arc;

use crossbeam_channel::{Receiver, bounded, unbounded};
use proptest::prelude::*;
use splimo_document::file;
use splimo_document::input::Evaluator;
use splimo_engine::{Engine, Inputs, Maps};
use splimo_light::rig::Rig;
use splimo_show::event::EventAddress;
use splimo_show::{
    AddressBlock, Aim, Area, Binding, Boundary, CommandTemplate, CueList, GoesOn, Group, Input, InputKind, Look,
    NamedControl, OutSource, OutTarget, Pad, Parts, Profile, Program, Region, Remote, RemoteLayout, Route, Show,
    Supply, Swatch, Tier, TimeCode, Timeline, ValueOut,
};

use super::editions::{Compiler, Editions};
use super::frames::{AdoptedShow, EngineInput};
use crate::media::Library;
use crate::network::{Exchange, Outgoing};
use crate::output::{NewOutput, Outlets};
use crate::session::BINDINGS;
use crate::trouble::Troubles;

fn demo() -> Show {
    file::read(include_str!("../../../../shows/lantern-quay.splimo")).expect("a good show").show
}

/// Changes of every part of a show, the settings one by one.
const CHANGES: &[fn(&mut Show)] = &[
    |show| show.name.push('!'),
    |show| show.canvas.width += 1.0,
    |show| drop(show.fixtures.pop()),
    |show| show.fixtures[0].x += 2.0,
    |show| show.fixtures.swap(0, 5),
    |show| show.fixtures[3].address = None,
    |show| show.fixtures[1].profile = "rgb 16".into(),
    |show| {
        let plain = Profile::built_in("rgb").expect("built in");
        show.profiles.push(Profile { name: format!("own {}", show.profiles.len()), ..plain });
    },
    |show| show.groups.push(Group { name: format!("more {}", show.groups.len()), members: vec![], colour: None }),
    |show| show.groups[0].members.truncate(3),
    |show| show.palette.push(Swatch { name: format!("hue {}", show.palette.len()), colours: vec!["#ff0000".into()] }),
    |show| {
        show.regions.push(Region {
            name: format!("part {}", show.regions.len()),
            of: String::new(),
            area: Area::default(),
        })
    },
    |show| show.aims.push(Aim::new(&format!("way {}", show.aims.len()))),
    |show| show.looks[0].name.push('x'),
    |show| show.looks.push(Look::new(&format!("look {}", show.looks.len()), Vec::new())),
    |show| show.looks[1].layers.truncate(1),
    |show| show.looks.swap(2, 3),
    |show| show.tiers.push(Tier::new(&format!("tier {}", show.tiers.len()))),
    |show| show.banks[0].pads.push(Pad { place: 36, command: Some("tap".into()), ..Pad::default() }),
    |show| show.rotation.without.push("Tide".into()),
    |show| {
        let mut list = CueList::new(&format!("list {}", show.cue_lists.len()));
        list.then = GoesOn::OnEvent("keys".into(), EventAddress::Bar);
        list.cues = vec![splimo_show::Cue::new("1".parse().expect("a number"), "")];
        show.cue_lists.push(list);
    },
    |show| show.timelines.push(Timeline { name: format!("time {}", show.timelines.len()), ..Timeline::default() }),
    |show| show.schedule.start.push(CommandTemplate::from("master 50")),
    |show| show.routes.truncate(1),
    |show| {
        let route = Route { name: format!("route {}", show.routes.len()), ..show.routes[0].clone() };
        show.routes.push(route);
    },
    |show| {
        let remote = Some(Remote { layout: RemoteLayout::Full, first: 1 });
        let name = format!("desk {}", show.inputs.len());
        show.inputs.push(Input { remote, on: false, ..Input::new(&name, InputKind::Sacn, "40") });
    },
    |show| show.bindings.push(Binding::new("keys", EventAddress::Beat, "fire-look Tide")),
    |show| show.controls.push(NamedControl { number: 60, name: format!("haze {}", show.controls.len()) }),
    |show| show.values_out.push(ValueOut::new(OutSource::Master, OutTarget::Dmx("1.500".parse().expect("an address")))),
    |show| {
        show.programs.push(Program {
            name: format!("run {}", show.programs.len()),
            command: vec![],
            sound: "a.wav".into(),
        })
    },
    |show| {
        show.supplies.push(Supply {
            name: format!("supply {}", show.supplies.len()),
            feeds: vec!["Floods".into()],
            limit: Some(5.0),
        })
    },
    |show| show.settings.rate = 30.0,
    |show| show.settings.time_code = TimeCode::Ebu,
    |show| show.settings.triggers ^= true,
    |show| show.settings.ignored_nodes.push(Ipv4Addr::new(127, 0, 0, 3)),
    |show| show.settings.nodes_from = AddressBlock::list("10.0.0.7").expect("a list"),
    |show| show.settings.triggers_from = AddressBlock::list("10.0.0.8").expect("a list"),
    |show| show.settings.time_code_from = AddressBlock::list("10.0.0.9").expect("a list"),
    // The tempo of the show is that of the start: a clock that runs is never set by an edit.
    |show| show.settings.phrase_bars = 8,
    |show| show.settings.dither ^= true,
    |show| show.settings.lands = Boundary::Now,
    |show| show.settings.strobe_limit = 9,
    |show| show.settings.hearing_bands = 32,
    |show| show.settings.inputs_may_all ^= true,
];

/// A session without threads: what is made of a show, as it is edited.
struct Running {
    compiler: Compiler,
    queue: Receiver<EngineInput>,
    engine: Engine,
    output: NewOutput,
    evaluator: Evaluator,
    show: Arc<Show>,
}

impl Running {
    fn start(show: Show) -> Self {
        let show = Arc::new(show);
        let troubles = Troubles::default();
        let mut library = Library::at(Path::new("."), troubles.clone());
        let media = library.media(&show);
        let rig = Arc::new(Rig { media, ..Rig::compile(&show) });
        let exchange = Arc::new(Exchange::default());
        let mut outlets = Outlets::new(troubles.clone(), "test".to_owned());
        let (output, outgoing) = outlets.ready(&show, &rig, &exchange.network());
        exchange.set_outgoing(outgoing);
        let editions = Arc::new(Editions::new(show.clone(), rig.clone(), output.universes()));
        let (engine, queue) = unbounded();
        let compiler = Compiler {
            shows: bounded(0).1,
            retired: bounded(0).1,
            engine,
            editions,
            outlets: RefCell::new(outlets),
            library: RefCell::new(library),
            maps: RefCell::new(Maps::default()),
            exchange,
            refresh: bounded(0).1,
            troubles,
        };
        let mut evaluator = Evaluator::default();
        evaluator.adopt(&show, 0.0, &mut Vec::new());
        let prepared = splimo_engine::Prepared::new(show.clone(), rig, 0);
        Self { compiler, queue, engine: Engine::start(prepared), output, evaluator, show }
    }

    fn edit(&mut self, number: u64, show: Show) {
        let show = Arc::new(show);
        self.compiler.compile(number, show.clone());
        if Parts::changed(&self.show, &show).touch(BINDINGS) {
            self.evaluator.adopt(&show, 0.0, &mut Vec::new());
        }
        self.show = show;
        while let Ok(input) = self.queue.try_recv() {
            match input {
                EngineInput::Settings(show, edition) => self.engine.adopt_settings(show, edition),
                EngineInput::Adopt(change) => {
                    let AdoptedShow { prepared, output, .. } = *change;
                    drop(self.engine.adopt(prepared));
                    if let Some(output) = output {
                        self.output = *output;
                    }
                }
                EngineInput::Output(output) => self.output = *output,
                EngineInput::Apply(..) | EngineInput::Cut(_) | EngineInput::Anew(_) | EngineInput::SyncPosition(_) => {
                    panic!("nobody asked for that")
                }
            }
        }
    }

    fn outgoing(&self) -> Outgoing {
        Outgoing::clone(&self.compiler.exchange.outgoing())
    }

    /// Slots of some frames of the first look.
    fn slots(&mut self) -> Vec<u8> {
        self.engine.cut_to(0);
        let mut all = Vec::new();
        for frame in 0..3 {
            let frame = self.engine.tick(f64::from(frame) / 44.0, &Inputs::default());
            all.extend_from_slice(&frame.slots);
        }
        all
    }
}

proptest! {
    #![proptest_config(ProptestConfig::with_cases(24))]

    #[test]
    fn any_series_of_edits_leaves_what_a_fresh_start_has(picks in proptest::collection::vec(0..CHANGES.len(), 1..7)) {
        let mut show = demo();
        let mut edited = Running::start(show.clone());
        for (number, pick) in (1..).zip(&picks) {
            CHANGES[*pick](&mut show);
            edited.edit(number, show.clone());
        }
        let mut fresh = Running::start(show);
        prop_assert!(edited.compiler.editions.newest().rig == fresh.compiler.editions.newest().rig, "the rig");
        prop_assert_eq!(edited.compiler.editions.universes(), fresh.compiler.editions.universes());
        prop_assert_eq!(edited.outgoing(), fresh.outgoing());
        prop_assert_eq!(&edited.output.streams, &fresh.output.streams);
        prop_assert_eq!(&edited.output.routes, &fresh.output.routes);
        prop_assert_eq!(edited.output.rate, fresh.output.rate);
        let bindings = |running: &Running| running.evaluator.bindings().cloned().collect::<Vec<Binding>>();
        prop_assert_eq!(bindings(&edited), bindings(&fresh));
        prop_assert!(edited.slots() == fresh.slots(), "the light");
    }
}

#[test]
fn every_part_of_a_show_is_changed_by_one_of_the_changes() {
    let mut parts = Parts::default();
    for change in CHANGES {
        let (before, mut after) = (demo(), demo());
        change(&mut after);
        let changed = Parts::changed(&before, &after);
        assert!(changed != Parts::default(), "a change that changes nothing");
        parts |= changed;
    }
    assert_eq!(parts, Parts::ALL, "a part that no change tries");
}
