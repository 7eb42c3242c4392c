<?php

declare(strict_types=1);

namespace App\Intake;

use App\Codebooks\Codebooks;
use App\Items\Doubts;
use App\Items\History;
use App\Items\ItemStates;
use App\Items\Keys;
use App\Items\Layers;
use App\Items\Suggested;
use App\Looks\LookAtObjects;
use App\Models\Import;
use App\Models\Item;
use App\Models\Layer;
use App\Models\MarkRow;
use App\Models\Project;
use App\Models\Run;
use App\Models\StoredText;
use App\Models\Turn;
use App\Support\Refusal;
use App\Work\Decisions;
use App\Work\Stations;
use Closure;
use Illuminate\Support\Facades\DB;
use Illuminate\Support\Str;
use Skeno\Core\Cloud\Rig;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Formats\Format;
use Skeno\Core\Formats\KnownPicture;
use Skeno\Core\Formats\KnownPictures;
use Skeno\Core\Formats\Notice;
use Skeno\Core\Formats\ReadLabels;
use Skeno\Core\Formats\Skipped;
use Skeno\Core\Inference\Saying;
use Skeno\Core\InvalidValue;
use Skeno\Core\Items\Labelled;
use Skeno\Core\Items\Sheets;
use Skeno\Core\Marks\LayerKind;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Marks\MarkCheck;
use Skeno\Core\Marks\OutOfSight;
use Skeno\Core\Text\Text;
use Skeno\Core\Tracks\Key;
use Skeno\Core\Tracks\Thinning;
use Skeno\Core\Volume\Scan;
use Skeno\Core\Workflow\Stage;
use Skeno\Core\Workflow\TurnState;

/**
 * Labels from files onto pictures of a project. They land as agreed labels of an "import" author, accepted where the core finds
 * them valid, else submitted with findings; or as suggestions. Marks that are already there are not doubled.
 */
final class TakeLabels
{
    private const MOST_LISTED = 10_000;

    /**
     * @param  bool  $asLabels  false: as suggestions
     * @param  bool  $emptyIsNothing  what a picture without objects means where its file does not say
     * @param  ?Import  $import  it is part of
     * @param  ?Closure(int): void  $progress  told now and then how many pictures have been read; may throw to stop
     * @return array{objects: int, known: int, items: int, accepted: int, submitted: int, nothing: int, unlabelled: int, skipped: list<array{file: string, place: string, reason: string}>, skipped_count: int, notices: list<array{what: string, count: int}>, findings: list<array{item: string, message: string}>, findings_count: int}
     */
    public function __invoke(Project $project, Format $format, string $path, bool $asLabels, bool $emptyIsNothing, ?Import $import = null, ?Closure $progress = null): array
    {
        $reader = $format->reader($project->codebookVersion()->codebook(), self::newId(...));

        return $this->read($project, $format, $reader->read($path, $this->known($project)), $asLabels, $emptyIsNothing, $import, $progress);
    }

    /** The id of a mark that comes in. */
    public static function newId(): string
    {
        return strtoupper((string) Str::ulid());
    }

    /**
     * Labels that are being read, by whatever reads them.
     *
     * @param  iterable<ReadLabels|Skipped|Notice>  $reads
     * @param  ?Closure(int): void  $progress  told now and then how many items have been read; may throw to stop
     * @return array{objects: int, known: int, items: int, accepted: int, submitted: int, nothing: int, unlabelled: int, skipped: list<array{file: string, place: string, reason: string}>, skipped_count: int, notices: list<array{what: string, count: int}>, findings: list<array{item: string, message: string}>, findings_count: int}
     */
    public function read(Project $project, Format $format, iterable $reads, bool $asLabels, bool $emptyIsNothing, ?Import $import = null, ?Closure $progress = null): array
    {
        Codebooks::mustBeSteady($project->id);
        $version = $project->codebookVersion();
        $codebook = $version->codebook();
        $report = ['objects' => 0, 'known' => 0, 'items' => 0, 'accepted' => 0, 'submitted' => 0, 'nothing' => 0, 'unlabelled' => 0, 'skipped' => [], 'skipped_count' => 0, 'notices' => [], 'findings' => [], 'findings_count' => 0];
        $run = $asLabels ? null : Run::query()->create(['project_id' => $project->id, 'created_by' => $import?->user_id, 'import_id' => $import?->id, 'model' => "label files ({$format->label()})"]);
        $done = 0;
        $notices = $touched = [];
        foreach ($reads as $read) {
            if ($read instanceof Skipped) {
                $report['skipped_count']++;
                if (count($report['skipped']) < self::MOST_LISTED) {
                    $report['skipped'][] = $read->toArray();
                }
            } elseif ($read instanceof Notice) {
                $notices[$read->what] = ($notices[$read->what] ?? 0) + 1;
            } else {
                $check = new MarkCheck($codebook);
                $fitting = [];
                foreach ($read->marks as $i => $came) {
                    try {
                        $mark = OutOfSight::kept($came, $codebook);
                        if ($mark !== $came) {
                            $what = 'tracks hidden for a while are absent there, as the codebook has it';
                            $notices[$what] = ($notices[$what] ?? 0) + 1;
                        }
                        $check->admit($mark, $read->picture->extent(), 'mark');
                        foreach ($mark->keys as $key) {
                            $check->admitKey($key, $mark, $read->picture->extent(), 'mark');
                        }
                        MarkCheck::mustBeVisible($mark, $read->picture->extent(), 'mark');
                        // a format that says every frame is kept as the keys that say the same; of a volume every voxel counts
                        $fitting[] = $mark->isTrack() && $format !== Format::Skeno && $read->picture->scan === null ? $mark->through($mark->place, $mark->there, Thinning::same($mark->keys)) : $mark;
                    } catch (InvalidValue $e) {
                        $report['skipped_count']++;
                        if (count($report['skipped']) < self::MOST_LISTED) {
                            $report['skipped'][] = ['file' => $read->picture->path, 'place' => 'mark '.($i + 1), 'reason' => $e->getMessage()];
                        }
                    }
                }
                [$new, $known] = $this->take($project, $version->version, $read, $fitting, $run);
                $report['objects'] += $new;
                $report['known'] += $known;
                if ($progress !== null && ++$done % 50 === 0) {
                    $progress($done);
                }
                $touched[$read->picture->id] = ($touched[$read->picture->id] ?? false) || $read->marks !== [] || ($read->labelled === Labelled::Nothing || ($read->labelled === null && $emptyIsNothing));
            }
        }
        foreach ($touched as $id => $labelled) {
            $outcome = $asLabels ? $this->settle($id, $labelled, $codebook, $report) : 'items';
            $report['items'] += $labelled ? 1 : 0;
            if ($outcome !== 'items') {
                $report[$outcome]++;
            }
        }
        if ($asLabels && $report['objects'] > 0) {
            LookAtObjects::ask($project->id);
        }
        foreach ($notices as $what => $count) {
            $report['notices'][] = ['what' => $what, 'count' => $count];
        }

        return $report;
    }

    private function known(Project $project): KnownPictures
    {
        $known = [];
        $rows = DB::table('items')->join('assets', 'assets.id', '=', 'items.asset_id')->where('project_id', $project->id)->orderBy('items.id')->select('items.id', 'items.path', 'assets.width', 'assets.height', 'items.kind', 'assets.facts')->cursor();
        foreach ($rows as $row) {
            $facts = $row->kind === 'picture' ? [] : json_decode((string) $row->facts, true);
            $known[] = new KnownPicture((int) $row->id, (string) $row->path, (int) $row->width, (int) $row->height, match ($row->kind) {
                'clip', 'cloud' => (int) ($facts['frames'] ?? 0),
                'volume' => Scan::fromArray($facts['scan'] ?? null)->places(),
                default => null,
            }, $row->kind === 'text' ? (int) ($facts['length'] ?? 0) : null, $row->kind === 'document' ? Sheets::fromArray($facts['sheets'] ?? null) : null, $row->kind === 'volume' ? Scan::fromArray($facts['scan'] ?? null) : null, $row->kind === 'cloud', $row->kind === 'cloud' && isset($facts['rig']) ? Rig::fromArray($facts['rig']) : null);
        }

        return new KnownPictures($known, static fn (KnownPicture $item): ?Text => StoredText::query()->whereIn('asset_id', Item::query()->whereKey($item->id)->select('asset_id'))->first()?->text());
    }

    /**
     * @param  list<Mark>  $marks  of those read, the ones that can be kept
     * @return array{int, int} marks taken, and marks that were there already
     */
    private function take(Project $project, int $version, ReadLabels $read, array $marks, ?Run $run): array
    {
        return DB::transaction(function () use ($project, $version, $read, $marks, $run): array {
            Codebooks::mustBeSteady($project->id);
            if ($project->codebookVersion()->version !== $version) {
                throw Refusal::because('codebook_changed', 'the codebook was changed while labels were taken in; import the file once more, what is there already is not doubled');
            }
            if ($read->part !== null) {
                Item::query()->whereKey($read->picture->id)->update(['part' => $read->part->value]);
            }
            $layer = $run === null ? Layers::agreed($read->picture->id) : Layers::ensure(Item::query()->findOrFail($read->picture->id), LayerKind::Suggestion, $run->id);
            $run === null ? $this->say($read, $layer) : $this->suggest($read, $layer);
            if ($marks === []) {
                return [0, 0];
            }
            $there = $standing = [];
            foreach (Layers::marks($layer) as $mark) {
                $standing[$mark->id] = self::fingerprint($mark);
                $there[self::fingerprint($mark, $standing)] = $mark->id;
            }
            // marks come before the relations between them; of one that is there already the relation leads to that
            $ids = $prints = [];
            $now = now();
            $rows = $history = $new = [];
            foreach ($marks as $came) {
                $prints[$came->id] = self::fingerprint($came);
                $mark = $came->isRelation() ? $came->copy($came->id, null, $ids) : $came;
                $print = self::fingerprint($came, $prints);
                $ids[$came->id] = $there[$print] ?? $came->id;
                // only what was there before counts as known: a file may hold the same box twice, and the check will say so
                if (isset($there[$print])) {
                    continue;
                }
                if (! $came->hasEndsAmong($ids)) {
                    // an end of it did not come in
                    continue;
                }
                $new[] = $mark;
                $data = $mark->toArray();
                $rows[] = [
                    'id' => $mark->id, 'project_id' => $project->id, 'item_id' => $read->picture->id, 'layer_id' => $layer->id, 'layer' => $layer->kind->value, 'source' => 'import', 'class' => $mark->class, 'kind' => $mark->kind->value,
                    'geometry' => json_encode($data['geometry'], JSON_PRESERVE_ZERO_FRACTION), 'answers' => json_encode((object) ($data['answers'] ?? [])), 'stack' => $mark->stack, 'part_of' => $mark->partOf,
                    'flags' => json_encode($data['flags'] ?? []), 'confidence' => $mark->confidence, 'place' => $mark->place, 'stretches' => $mark->there === null ? null : json_encode($mark->there->toArray()), 'revision' => 1, 'created_at' => $now, 'updated_at' => $now,
                ];
                $history[] = History::entry($read->picture->id, $layer->id, $mark->id, 1, 'create', null, $data, null);
            }
            foreach (array_chunk($rows, 200) as $chunk) {
                DB::table('marks')->insert($chunk);
            }
            $check = new MarkCheck($project->codebookVersion()->codebook());
            Keys::insert($new, static fn (Key $key, Mark $mark): bool => $check->isFaulty($key, $mark, $read->picture->extent()));
            History::write($history);
            Layers::count($layer);
            if ($run !== null) {
                Doubts::refresh([$layer->item_id]);
            }

            return [count(array_filter($new, static fn (Mark $mark): bool => ! $mark->isRelation())), count($marks) - count($rows)];
        });
    }

    /** What a file says of a picture as a whole, for a person to decide. What it says of stretches can't be suggested yet. */
    private function suggest(ReadLabels $read, Layer $layer): void
    {
        if ($read->said === null || $layer->revision > 0) {
            return;
        }
        $sayings = array_map(static fn (string $tag): Saying => new Saying($tag, null, null), $read->said->tags);
        foreach ($read->said->answers as $key => $answer) {
            $sayings[] = new Saying($key, $answer, null);
        }
        Suggested::say($layer, $sayings);
        // said once: the same file does not say it again
        $layer->forceFill(['revision' => 1, 'source' => 'import'])->save();
    }

    /** What a file says of a picture as a whole, where nothing is said of it yet. */
    private function say(ReadLabels $read, Layer $layer): void
    {
        if ($read->said === null || $layer->revision > 0) {
            return;
        }
        $said = $read->said->toArray();
        $layer->fill(['answers' => $said['answers'] ?? [], 'tags' => $said['tags'] ?? [], 'stretches' => $said['stretches'] ?? [], 'revision' => 1, 'source' => 'import'])->save();
        History::write([History::entry($layer->item_id, $layer->id, null, 1, 'create', null, $said, null)]);
    }

    /**
     * @param  array<string, mixed>  $report
     * @return 'accepted'|'submitted'|'nothing'|'unlabelled'
     */
    private function settle(int $id, bool $labelled, Codebook $codebook, array &$report): string
    {
        $item = Item::query()->with('asset')->findOrFail($id);
        $layer = Layers::agreed($id);
        $marks = Layers::marks($layer);
        if (! $labelled && $marks === []) {
            return 'unlabelled';
        }
        $found = (new MarkCheck($codebook))->item($marks, $item->extent(), $layer->said());
        foreach ($found as $finding) {
            $report['findings_count']++;
            if (count($report['findings']) < self::MOST_LISTED) {
                $report['findings'][] = ['item' => $item->path, 'message' => $finding->message];
            }
        }
        DB::transaction(static function () use ($item, $layer, $found): void {
            $state = $found === [] ? TurnState::Accepted : TurnState::Submitted;
            $turn = Turn::query()->where('item_id', $item->id)->whereNull('assignment_id')->where('stage', Stage::Label)->first()
                ?? new Turn(['project_id' => $item->project_id, 'item_id' => $item->id, 'layer_id' => $layer->id, 'stage' => Stage::Label, 'pass' => 1, 'round' => 1]);
            $turn->fill(['state' => $state, 'submitted_at' => now(), 'decided_at' => $found === [] ? now() : null])->save();
            $decision = Stations::decision($turn);
            if ($decision !== null && $decision->state === TurnState::Waiting) {
                $decision->delete();
                $decision = null;
            }
            if ($state === TurnState::Submitted && ($decision === null || $decision->state !== TurnState::Open)) {
                Decisions::ask($turn->refresh(), null);
            }
            MarkRow::query()->where('layer_id', $layer->id)->where('source', 'import')->whereNull('turn_id')->update(['turn_id' => $turn->id]);
            Layers::count($layer->refresh());
            Layers::sayNothing($layer, $layer->mark_count === 0);
            ItemStates::refresh([$item->id]);
        });

        return $marks === [] ? 'nothing' : ($found === [] ? 'accepted' : 'submitted');
    }

    /** @param  array<string, string>  $ends  fingerprints of the marks a relation may lead to, by id: what they are tells it, not their ids */
    private static function fingerprint(Mark $mark, array $ends = []): string
    {
        if ($mark->isRelation()) {
            $said = $mark->geometry->toArray();

            return "{$mark->class} ".implode(' to ', array_map(static fn (mixed $end): string => is_string($end) ? $ends[$end] ?? $end : '', [$said['from'] ?? '', $said['to'] ?? '']));
        }

        // (tracks are the same when all their keys are)
        $rounded = [$mark->geometry->toArray(), $mark->there?->toArray(), array_map(static fn (Key $key): array => [$key->place, $key->geometry?->toArray(), $key->hidden], $mark->keys)];
        array_walk_recursive($rounded, static function (mixed &$value): void {
            $value = is_float($value) ? round($value, 2) : $value;
        });

        return "{$mark->class} {$mark->kind->value} ".json_encode($rounded);
    }
}
