//! The recipes: the lines of each stand in the rules of its fight, which passes, and the list at the top has them all.

mod common;

use std::fs;

use common::{blocks, in_its_file, root, run};

#[test]
fn each_recipe_stands_in_a_fight_that_passes() {
    let text = fs::read_to_string(root().join("docs/recipes.md")).unwrap();
    let mut recipes = text.split("\n## ");
    let list: Vec<&str> = recipes.next().unwrap().lines().filter(|line| line.contains("](#")).collect();
    let recipes: Vec<&str> = recipes.collect();
    assert!(recipes.len() >= 30 && list.len() == recipes.len(), "{} of {}", recipes.len(), list.len());
    for (recipe, listed) in recipes.iter().zip(list) {
        let title = recipe.lines().next().unwrap();
        assert!(listed.contains(title.split_once(". ").unwrap().1), "{listed}: {title}");
        let words = |text: &str| -> String {
            text.to_lowercase().chars().filter(|one| one.is_alphanumeric() || " -".contains(*one)).collect()
        };
        assert!(listed.contains(&format!("(#{})", words(title).replace(' ', "-"))), "{listed}: {title}");
        let fight = recipe.split("](../").nth(1).and_then(|rest| rest.split(')').next()).unwrap();
        let (status, said, errors) = run(&["test", fight]);
        assert_eq!((status, errors.as_str()), (0, ""), "{title}: {said}");
        let rules = fs::read_to_string(root().join(fight)).unwrap();
        let rules = rules
            .lines()
            .find_map(|line| line.strip_prefix("rules = "))
            .unwrap()
            .trim_matches('"')
            .to_owned();
        let beside = root().join(fight).with_file_name(&rules);
        let included = fs::read_to_string(beside).unwrap();
        let all = blocks(recipe);
        assert!(!all.is_empty(), "{title}");
        for (sort, lines) in all {
            assert!(sort == "toml" && lines.len() <= 12, "{title}: {} lines", lines.len());
            let file = in_its_file(title, &lines);
            let name = file.rsplit('/').next().unwrap();
            assert!(
                file == fight || name == rules || included.contains(&format!("\"{name}\"")),
                "{title}: {file} is not of {fight}"
            );
        }
    }
}

/// What the page of words names is there: fields of files, topics, gates and verbs.
#[test]
fn the_words_lead_somewhere() {
    let text = fs::read_to_string(root().join("docs/words.md")).unwrap();
    let files = fs::read_to_string(root().join("docs/files.md")).unwrap();
    let (_, topics, _) = run(&["wiring", "--topics"]);
    let ticked =
        |cell: &str| -> Vec<String> { cell.split('`').skip(1).step_by(2).map(str::to_owned).collect() };
    let (mut fields, mut told) = (0, 0);
    for row in text.lines().filter(|line| line.starts_with("| ") && line.matches('|').count() == 6) {
        let cells: Vec<&str> = row.split('|').map(str::trim).collect();
        for field in ticked(cells[3]) {
            if let Some(verb) = field.strip_prefix("hammerstone ") {
                assert_eq!(run(&["help", verb]).0, 0, "{row}");
                continue;
            }
            // A table, or a field with a value.
            let name = field.trim_start_matches('[').split([' ', '.', ']']).next().unwrap();
            assert!(name == "run" || files.contains(&format!("| `{name}` |")), "{row}: {name}");
            fields += 1;
        }
        for topic in ticked(cells[5]).iter().filter(|one| one.contains('.')) {
            assert!(topics.lines().any(|line| line.trim().starts_with(topic.as_str())), "{row}: {topic}");
            told += 1;
        }
    }
    assert!(fields > 40 && told > 15, "{fields} {told}");
}
