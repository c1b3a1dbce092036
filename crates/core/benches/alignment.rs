//! The heart, at growing sizes. Each benchmark checks its answer before it is measured.

use std::hint::black_box;

use criterion::{BenchmarkId, Criterion, Throughput, criterion_group, criterion_main};
use tideline_core::internal::align::{Bounds, Edit, align};
use tideline_core::internal::kinds::text::{Grain, TextOptions, compare, detail};
use tideline_core::internal::rules::MaskedText;

fn masks(lines: usize) -> Vec<String> {
    (0..lines).map(|n| format!("2031-04-05 gauge {} level {}\n", n % 31, n * 7919 % 10_007)).collect()
}

/// A text, and a copy with one line in `every` edited.
fn scattered(lines: usize, every: usize) -> (Vec<u8>, Vec<u8>) {
    let before = masks(lines);
    let edit =
        |(n, line): (usize, &String)| if n % every == every / 2 { format!("edited {n}\n") } else { line.clone() };
    let after: String = before.iter().enumerate().map(edit).collect();
    (before.concat().into_bytes(), after.into_bytes())
}

fn size(edits: &[Edit]) -> usize {
    edits.iter().map(|edit| edit.before.lines.len() + edit.after.lines.len()).sum()
}

fn scattered_edits(criterion: &mut Criterion) {
    let mut group = criterion.benchmark_group("scattered edits");
    group.sample_size(20);
    for lines in [10_000, 20_000, 100_000, 200_000, 1_000_000] {
        let (before, after) = scattered(lines, 500);
        assert_eq!(size(&align(&before, &after, &Bounds::default())), 2 * lines / 500);
        group.throughput(Throughput::Bytes((before.len() + after.len()) as u64));
        group.bench_with_input(BenchmarkId::from_parameter(lines), &lines, |bencher, _| {
            bencher.iter(|| align(black_box(&before), black_box(&after), &Bounds::default()));
        });
    }
    group.finish();
}

fn hard_inputs(criterion: &mut Criterion) {
    let mut group = criterion.benchmark_group("hard inputs");
    group.sample_size(10);
    for lines in [10_000, 20_000, 40_000] {
        let rising = masks(lines).concat();
        let falling: String = masks(lines).into_iter().rev().collect();
        let few = |seed: usize| (0..lines).map(|n| format!("{}\n", (n * seed + n * n / 3) % 8)).collect::<String>();
        for (name, before, after) in [("reversed", rising, falling), ("few lines", few(7), few(5))] {
            group.bench_with_input(BenchmarkId::new(name, lines), &lines, |bencher, _| {
                bencher.iter(|| align(black_box(before.as_bytes()), black_box(after.as_bytes()), &Bounds::default()));
            });
        }
    }
    group.finish();
}

fn inside_of_changes(criterion: &mut Criterion) {
    let mut group = criterion.benchmark_group("inside of changes");
    group.sample_size(20);
    for lines in [10, 100, 1000] {
        let before: String = (0..lines).map(|n| format!("    level_{n} = read(gauge, {n}) + offset\n")).collect();
        let after = before.replace("gauge, ", "station.gauge, ").replace(" + offset", "");
        let comparison = compare(before.as_bytes(), after.as_bytes(), &TextOptions::default());
        let place = comparison.places[0].clone();
        let masked = (MaskedText::unmasked(before.as_bytes()), MaskedText::unmasked(after.as_bytes()));
        let look = || detail((&masked.0, &place.before), (&masked.1, &place.after), &Grain::Word).rows.len();
        assert_eq!(look(), lines);
        group.bench_with_input(BenchmarkId::from_parameter(lines), &lines, |bencher, _| bencher.iter(look));
    }
    group.finish();
}

criterion_group!(benches, scattered_edits, hard_inputs, inside_of_changes);
criterion_main!(benches);
