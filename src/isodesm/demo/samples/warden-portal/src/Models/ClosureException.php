<?php

namespace Hollin\Portal\Models;

use RuntimeException;

final class ClosureException extends RuntimeException
{
}
