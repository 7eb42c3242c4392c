<?php

declare(strict_types=1);

namespace App\Prompts;

use App\Files\TextStore;
use App\Help\Finder;
use App\Help\Suggestions;
use App\Models\ChatModel;
use App\Models\Item;
use App\Models\PromptVersion;
use Illuminate\Support\Str;
use Skeno\Core\Codebook\Answer;
use Skeno\Core\Codebook\Codebook;
use Skeno\Core\Inference\Saying;
use Skeno\Core\Marks\Mark;
use Skeno\Core\Prompt\ReplyReader;

/** A version of a prompt as a run asks it about texts. A chat model does not say how sure it is: what it suggests has no confidence. */
final readonly class PromptFinder implements Finder
{
    public function __construct(private AskChat $ask, private TextStore $texts, private PromptVersion $version, private ChatModel $model)
    {
    }

    public function looksForObjects(): bool
    {
        return $this->version->task['classes'] !== [];
    }

    public function suggest(Item $item, Codebook $codebook): ?Suggestions
    {
        if ($item->kind !== 'text') {
            return null;
        }
        $task = $this->version->asks($codebook);
        $text = $this->texts->of($item->asset);
        $said = ($this->ask)($this->model, $this->version->template()->filled($codebook, $task), $text->body);
        $reply = ReplyReader::read($said->words, $text, $codebook, $task);
        $counted = $said->in !== null && $said->out !== null;

        return new Suggestions(
            array_map(static fn (array $one): Mark => Mark::of(strtoupper((string) Str::ulid()), $one['class'], $one['span']), $reply->spans),
            [...array_map(static fn (string $tag): Saying => new Saying($tag, null, null), $reply->tags), ...array_map(static fn (string $key, Answer $answer): Saying => new Saying($key, $answer, null), array_keys($reply->answers), $reply->answers)],
            ['mended' => count($reply->mended), 'left' => count($reply->left), 'cut' => $said->fault === null ? 0 : 1, 'tokens_in' => $counted ? (int) $said->in : 0, 'tokens_out' => $counted ? (int) $said->out : 0, 'uncounted' => $counted ? 0 : 1],
        );
    }
}
