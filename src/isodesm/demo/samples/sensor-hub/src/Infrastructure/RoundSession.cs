using System;

namespace Hollin.Hub.Infrastructure
{
    /// <summary>One round's file; each round is to get a session of its own.</summary>
    public class RoundSession
    {
        public RoundSession()
        {
            FileName = "round-" + Guid.NewGuid().ToString("N") + ".txt";
        }

        public string FileName { get; }
    }
}
