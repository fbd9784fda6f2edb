//! The neutral benchmark of scheduling: single-mode instances in the academic `.sm` layout, a schedule each.

use rayon::prelude::*;
use snug_core::tuck_in::engine::fixed::{Activity, Problem, Schedule, search};
use std::{
    fmt::Write as _,
    fs,
    path::{Path, PathBuf},
    time::{Duration, Instant},
};

/// What one is asked for.
pub struct Asked<'a> {
    pub folder: &'a Path,
    pub seconds: f64,
    pub seed: u64,
    /// So many searches, each on a thread of its own with a seed of its own, of which the best counts.
    pub threads: u64,
    /// Where schedules are written.
    pub out: Option<&'a Path>,
}

/// Schedules every instance of a folder; prints its name, the last finish, the lower bound and how many passes were made.
pub fn run(asked: &Asked<'_>) -> Result<(), String> {
    let told = |error: std::io::Error| format!("{}: {error}", asked.folder.display());
    let files = fs::read_dir(asked.folder).map_err(told)?.filter_map(|entry| Some(entry.ok()?.path()));
    let mut files: Vec<PathBuf> = files.filter(|path| path.extension().is_some_and(|it| it == "sm")).collect();
    files.sort();
    for path in files {
        let name = path.file_stem().unwrap_or_default().to_string_lossy().into_owned();
        let wrong = |problem: String| format!("{}: {problem}", path.display());
        let text = fs::read_to_string(&path).map_err(|error| wrong(error.to_string()))?;
        let (activities, capacities) = read(&text).ok_or_else(|| wrong("it is not in the .sm layout".to_owned()))?;
        let problem = Problem::new(&activities, &capacities).map_err(|fault| wrong(fault.to_string()))?;
        let (found, passes) = best(&problem, asked);
        println!("{name} {} {} {passes}", found.end, problem.lower_bound());
        if let Some(out) = asked.out {
            let mut csv = "activity,start\n".to_owned();
            for (at, start) in found.starts.iter().enumerate() {
                let _ = writeln!(csv, "{},{start}", at + 1);
            }
            let written = fs::create_dir_all(out).and_then(|()| fs::write(out.join(format!("{name}.csv")), csv));
            written.map_err(|error| format!("{}: {error}", out.display()))?;
        }
    }
    Ok(())
}

/// The best schedule of so many searches side by side, and the passes of all of them.
fn best(problem: &Problem, asked: &Asked<'_>) -> (Schedule, u64) {
    let ends = Instant::now() + Duration::try_from_secs_f64(asked.seconds).unwrap_or_default();
    let one = |at: u64| {
        let mut passes = 0;
        let found = search(problem, asked.seed.wrapping_add(at), &mut |progress| {
            passes = progress.passes;
            Instant::now() < ends
        });
        (found, passes)
    };
    let all: Vec<(Schedule, u64)> = (0..asked.threads.max(1)).into_par_iter().map(one).collect();
    let passes = all.iter().map(|(_, passes)| passes).sum();
    let best = all.into_iter().map(|(found, _)| found).min_by_key(|found| found.end).unwrap_or_default();
    (best, passes)
}

/// Activities and capacities of an instance; nothing where it is in another layout.
fn read(text: &str) -> Option<(Vec<Activity>, Vec<u16>)> {
    let lines: Vec<&str> = text.lines().collect();
    let numbers = |line: &str| line.split_whitespace().map(|word| word.parse().ok()).collect::<Option<Vec<u16>>>();
    let rows = |title: &str, below: usize| {
        let first = lines.iter().position(|line| line.starts_with(title))? + below;
        let table = lines.get(first..)?.iter().take_while(|line| !line.trim().is_empty() && !line.starts_with('*'));
        table.map(|line| numbers(line)).collect::<Option<Vec<_>>>()
    };
    let capacities = rows("RESOURCEAVAILABILITIES", 2)?.into_iter().next()?;
    let mut activities: Vec<Activity> = Vec::new();
    for row in rows("REQUESTS/DURATIONS", 3)? {
        let [_, _, length, needs @ ..] = row.as_slice() else { return None };
        activities.push(Activity {
            length: *length,
            needs: needs.iter().copied().enumerate().collect(),
            after: Vec::new(),
        });
    }
    for (at, row) in rows("PRECEDENCE RELATIONS", 2)?.iter().enumerate() {
        for next in row.get(3..)? {
            activities.get_mut(usize::from(*next).checked_sub(1)?)?.after.push(at);
        }
    }
    Some((activities, capacities))
}
