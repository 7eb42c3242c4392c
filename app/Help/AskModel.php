<?php

declare(strict_types=1);

namespace App\Help;

use App\Looks\LookAtObjects;
use App\Models\Asset;
use App\Models\ModelRow;
use App\Models\ModelVersion;
use App\Support\Refusal;
use Skeno\Core\Imaging\Colours;
use Skeno\Core\Inference\Looked;
use Skeno\Core\Inference\Mapping;
use Skeno\Core\Inference\Told;
use Skeno\Core\InvalidValue;
use Skeno\Core\Learn\Choices;
use Skeno\Core\Learn\LearnedKind;
use Skeno\Core\Learn\Regions;
use Skeno\Core\Learn\Skeletons;
use Skeno\Core\Learn\Then;

/** What a model finds on a picture, whether it is asked over the network or was learned here; and what comes then in each place that was found. */
final class AskModel
{
    /** Instead of a model: the outline of what is in each box, by cut-out. */
    public const OUTLINE = 'outline';

    /** @var array<int, Regions|Skeletons|Choices> the versions asked last, since one is asked about many items */
    private array $known = [];

    public function __construct(private readonly CallModel $call, private readonly Examples $examples, private readonly LookAtObjects $look)
    {
    }

    /**
     * @param  string|ModelRow|null  $then  OUTLINE, or a learned model: what is done with each thing that was found
     * @param  ?int  $version  of a learned model; null: the one in use
     * @param  int  $seconds  a connected one is waited for
     *
     * @throws Refusal|InvalidValue when it can't be asked, or does not say what it should
     */
    public function find(ModelRow $model, Asset $asset, string|ModelRow|null $then = null, Mapping $mapping = new Mapping([]), ?int $version = null, int $seconds = 60): Looked
    {
        $part = $this->examples->part($asset);
        [$width, $height] = [$asset->width, $asset->height];
        if ($model->learns() === null) {
            $found = $this->call->find($model, static fn (int $columns, int $rows): Colours => $part(0, 0, $width, $height, $columns, $rows), $width, $height, $seconds);
        } else {
            $learned = $this->learned($model, $version);
            $found = $learned instanceof Choices ? new Looked([], $this->told($learned, $asset)) : new Looked($learned->find($part, $width, $height));
        }
        if ($then === null) {
            return $found;
        }
        $after = $this->after($then);
        $things = (new Then($part, $width, $height))->all($found->things, $after, $mapping->classes);

        return new Looked($things, $after instanceof Choices ? $found->told->and($this->told($after, $asset)) : $found->told);
    }

    /** What is said of the picture as a whole. */
    private function told(Choices $learned, Asset $asset): Told
    {
        $looks = $this->look->picture($asset);

        return $looks === null ? new Told : $learned->told(Then::OF_PICTURE, $looks);
    }

    /**
     * The version of a learned model that is in use, or that one.
     *
     * @throws Refusal when it has learned nothing yet
     */
    private function learned(ModelRow $model, ?int $version = null): Regions|Skeletons|Choices
    {
        $version ??= $model->version_id ?? throw Refusal::because('model_not_learned', "{$model->name} has learned nothing yet");
        if (! isset($this->known[$version])) {
            $packed = ModelVersion::query()->where('model_id', $model->id)->whereKey($version)->value('packed');
            if (! is_string($packed)) {
                throw Refusal::because('model_not_learned', "{$model->name} has no such version any more");
            }
            // one that finds, and one that comes then
            $this->known = array_slice($this->known, -1, preserve_keys: true) + [$version => self::unpacked($model->learns() ?? LearnedKind::Regions, $packed)];
        }

        return $this->known[$version];
    }

    /** @throws InvalidValue */
    public static function unpacked(LearnedKind $kind, string $packed): Regions|Skeletons|Choices
    {
        return match ($kind) {
            LearnedKind::Looks => Choices::unpack($packed),
            LearnedKind::Regions => Regions::unpack($packed),
            LearnedKind::Skeletons => Skeletons::unpack($packed),
        };
    }

    /** The learned skeletons of a project as they are now. @throws Refusal */
    public function skeletons(ModelRow $model): Skeletons
    {
        $learned = $this->learned($model);

        return $learned instanceof Skeletons ? $learned : throw Refusal::because('model_not_learned', "{$model->name} has not learned skeletons");
    }

    /** @throws InvalidValue when it is of a kind that can't come then */
    private function after(string|ModelRow $then): Skeletons|Choices|null
    {
        if (! $then instanceof ModelRow) {
            return null;
        }
        $learned = $then->learns() === null ? null : $this->learned($then);

        return $learned instanceof Regions || $learned === null ? throw InvalidValue::at('then', $then->name, 'outline, or a learned model of skeletons or of looks') : $learned;
    }
}
