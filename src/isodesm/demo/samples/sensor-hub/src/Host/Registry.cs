using System;
using System.Collections.Generic;

namespace Hollin.Hub.Host
{
    /// <summary>The hub's own container: what serves what, and whether it is shared, kept for a round, or made anew.</summary>
    public class Registry
    {
        private readonly Dictionary<Type, Func<object>> makers = new Dictionary<Type, Func<object>>();
        private readonly Dictionary<Type, object> shared = new Dictionary<Type, object>();

        public static Registry Current { get; set; }

        public void Shared<TAbstraction>(Func<Registry, TAbstraction> maker)
        {
            makers[typeof(TAbstraction)] = () =>
            {
                if (!shared.ContainsKey(typeof(TAbstraction)))
                {
                    shared[typeof(TAbstraction)] = maker(this);
                }
                return shared[typeof(TAbstraction)];
            };
        }

        public void PerRound<TAbstraction>(Func<Registry, TAbstraction> maker)
        {
            makers[typeof(TAbstraction)] = () => maker(this);
        }

        public T Get<T>()
        {
            return (T)makers[typeof(T)]();
        }
    }
}
