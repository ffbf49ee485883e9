using System;
using Hollin.Hub.Domain;

namespace Hollin.Hub.Host
{
    /// <summary>Fires functions by name, as the timers of the host do.</summary>
    public class FunctionHost
    {
        private readonly Registry registry;

        public FunctionHost(Registry registry)
        {
            this.registry = registry;
        }

        public int Fire(string name)
        {
            switch (name)
            {
                case "poll":
                    return registry.Get<PollFunction>().Tick();
                default:
                    throw new HubException("no function " + name);
            }
        }
    }
}
